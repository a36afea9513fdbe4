from django.urls import path

from calmtin.plans.views import fill, series

app_name = "plans"
urlpatterns = [
    path("formulas/<row:pk>/v/<row:number>/fill/", fill.fill, name="fill"),
    path("formulas/<row:pk>/v/<row:number>/fill/sheet/", fill.sheet, name="fill_sheet"),
    path("formulas/<row:pk>/v/<row:number>/series/", series.series, name="series"),
    path("formulas/<row:pk>/v/<row:number>/fill/dilute/<slug:key>/", fill.dilute, name="dilute"),
    path("formulas/<row:pk>/v/<row:number>/vary/", series.vary, name="vary"),
]
