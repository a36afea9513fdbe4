from django.urls import include, path

urlpatterns = [
    path("", include("calmtin.pours.urls")),
    path("", include("calmtin.accounts.urls")),
    path("", include("calmtin.exchange.urls")),
    path("formulas/", include("calmtin.formulas.urls")),
    path("pantry/", include("calmtin.pantry.urls")),
]
handler404 = "calmtin.common.views.not_found"
handler500 = "calmtin.common.views.server_error"
