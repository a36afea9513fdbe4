from django.urls import path

from calmtin.exchange import views

app_name = "exchange"
urlpatterns = [
    path("formulas/import/", views.formula_import, name="formula_import"),
    path("formulas/<row:pk>/v/<row:number>/file/", views.formula_file, name="formula_file"),
    path("formulas/<row:pk>/v/<row:number>/csv/", views.formula_csv, name="formula_csv"),
    path("records/", views.records, name="records"),
    path("records/part/", views.records_part, name="records_part"),
    path("records/all.zip", views.records_file, name="records_file"),
    path("pours.csv", views.log_csv, name="pours_csv"),
    path("pours/import/", views.log_import, name="pours_import"),
    path("pours/sample.csv", views.sample, {"of": "pours"}, name="pours_sample"),
    path("pantry/sample.csv", views.sample, {"of": "pantry"}, name="pantry_sample"),
    path("pantry/csv/", views.pantry_csv, name="pantry_csv"),
    path("pantry/import/", views.pantry_import, name="pantry_import"),
]
