from django.urls import include, path

from calmtin.formulas import views

app_name = "formulas"
version = [
    path("", views.formula, name="version"),
    path("next/", views.next_version, name="next_version"),
    path("batch/", views.batch, name="batch"),
    path("process/", views.process, name="process"),
    path("lines/", views.line_add, name="line_add"),
    path("lines/<slug:key>/percent/", views.line_percent, name="line_percent"),
    path("lines/<slug:key>/strength/", views.line_strength, name="line_strength"),
    path("lines/<slug:key>/trade/", views.line_trade, name="line_trade"),
    path("lines/<slug:key>/lock/", views.line_lock, name="line_lock"),
    path("lines/<slug:key>/swap/", views.swaps, name="swaps"),
    path("target/", views.target, name="target"),
    path("acknowledge/", views.acknowledge, name="acknowledge"),
    path("apply/", views.apply, name="apply"),
    path("trio/", views.trio, name="trio"),
    path("lines/<slug:key>/remove/", views.line_remove, name="line_remove"),
    path("lines/<slug:key>/balance/", views.line_balance, name="line_balance"),
]
urlpatterns = [
    path("", views.formula_list, name="list"),
    path("new/", views.formula_new, name="new"),
    path("paste/", views.paste, name="paste"),
    path("<int:pk>/", views.formula, name="formula"),
    path("<int:pk>/versions/", views.versions, name="versions"),
    path("<int:pk>/details/", views.details, name="details"),
    path("<int:pk>/v/<int:number>/", include(version)),
]
