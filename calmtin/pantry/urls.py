from django.urls import path

from calmtin.pantry.views import containers, lots, making, materials, shelf

app_name = "pantry"
urlpatterns = [
    path("", shelf.pantry, name="pantry"),
    path("materials/new/", materials.material_new, name="material_new"),
    path("materials/<slug:slug>/", materials.material, name="material"),
    path("materials/<slug:slug>/correct/", materials.material_correct, name="material_correct"),
    path("lots/<row:pk>/", lots.lot, name="lot"),
    path("containers/", containers.container_list, name="containers"),
    path("containers/<row:pk>/", containers.container, name="container"),
    path("making/", making.making, name="making"),
    path("making/<row:pk>/", making.infusion, name="infusion"),
    path("rendering/<row:pk>/", making.rendering, name="rendering"),
]
