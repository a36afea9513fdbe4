from django.urls import path

from calmtin.checks.views import calibration, checks, compare, reactions

app_name = "checks"
urlpatterns = [
    path("pours/<row:pk>/check/", checks.check, name="check"),
    path("pours/<row:pk>/check/moment/", checks.moment, name="moment"),
    path("pours/<row:pk>/press/", checks.press, name="press"),
    path("pours/<row:pk>/final/", checks.keep, name="final"),
    path("checks/<row:pk>/trace/", reactions.trace, name="trace"),
    path("reactions/<row:pk>/", reactions.reaction, name="reaction"),
    path("photos/<row:pk>/", checks.photo, name="photo"),
    path("compare/", compare.compare, name="compare"),
    path("calibration/", calibration.learned, name="calibration"),
    path("calibration/figures/", calibration.figures, name="calibration_figures"),
    path("checks/<row:pk>/exclude/", calibration.exclude_check, name="exclude"),
    path("formulas/<row:pk>/pours/", compare.history, name="history"),
    path("formulas/<row:pk>/next/", compare.next_pour, name="next"),
    path("formulas/<row:pk>/story/", compare.story, name="story"),
]
