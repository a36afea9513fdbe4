from django.urls import include, path, register_converter

from calmtin.common import install
from calmtin.common.converters import RowConverter
from calmtin.config.moved import MOVED, moved

register_converter(RowConverter, "row")

urlpatterns = [
    path("manifest.webmanifest", install.manifest, name="manifest"),
    path("sw.js", install.worker, name="worker"),
    path("away/", install.away, name="away"),
    path("", include("calmtin.overview.urls")),
    path("", include("calmtin.plans.urls")),
    path("", include("calmtin.pours.urls")),
    path("", include("calmtin.checks.urls")),
    path("", include("calmtin.packing.urls")),
    path("", include("calmtin.accounts.urls")),
    path("", include("calmtin.exchange.urls")),
    path("", include("calmtin.help.urls")),
    path("formulas/", include("calmtin.formulas.urls")),
    path("pantry/", include("calmtin.pantry.urls")),
    *(path(old, moved, {"to": new}) for old, new in MOVED.items()),
]
handler404 = "calmtin.common.views.not_found"
handler500 = "calmtin.common.views.server_error"
handler400 = "calmtin.common.views.bad_request"
handler403 = "calmtin.common.views.refused"
