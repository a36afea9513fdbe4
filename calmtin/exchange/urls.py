from django.urls import path

from calmtin.exchange import views

app_name = "exchange"
urlpatterns = [
    path("pantry/csv/", views.pantry_csv, name="pantry_csv"),
    path("pantry/import/", views.pantry_import, name="pantry_import"),
]
