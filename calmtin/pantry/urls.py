from django.urls import path

from calmtin.pantry import views

app_name = "pantry"
urlpatterns = [
    path("", views.pantry, name="pantry"),
    path("materials/new/", views.material_new, name="material_new"),
    path("materials/<slug:slug>/", views.material, name="material"),
    path("lots/<row:pk>/", views.lot, name="lot"),
    path("containers/", views.container_list, name="containers"),
    path("making/", views.making, name="making"),
    path("making/<row:pk>/", views.infusion, name="infusion"),
]
