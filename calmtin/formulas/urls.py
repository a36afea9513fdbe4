from django.urls import include, path

from calmtin.formulas.views import editing, pages, solving, variants

app_name = "formulas"
version = [
    path("", pages.formula, name="version"),
    path("next/", editing.next_version, name="next_version"),
    path("batch/", editing.batch, name="batch"),
    path("process/", editing.process, name="process"),
    path("lines/", editing.line_add, name="line_add"),
    path("lines/<slug:key>/percent/", editing.line_percent, name="line_percent"),
    path("lines/<slug:key>/strength/", editing.line_strength, name="line_strength"),
    path("lines/<slug:key>/trade/", editing.line_trade, name="line_trade"),
    path("lines/<slug:key>/lock/", editing.line_lock, name="line_lock"),
    path("lines/<slug:key>/swap/", solving.swaps, name="swaps"),
    path("all/", editing.all_at_once, name="all_at_once"),
    path("without/", solving.switch, name="switch"),
    path("finishes/", variants.finishes, name="finishes"),
    path("finishes/<row:finish>/remove/", variants.finish_remove, name="finish_remove"),
    path("copy/", variants.copy, name="copy"),
    path("sheet/", variants.sheet, name="sheet"),
    path("undo/", editing.undo, name="undo"),
    path("redo/", editing.redo, name="redo"),
    path("scents/fit/", editing.fit_scents, name="fit_scents"),
    path("target/", solving.target, name="target"),
    path("acknowledge/", editing.acknowledge, name="acknowledge"),
    path("apply/", solving.apply, name="apply"),
    path("trio/", solving.trio, name="trio"),
    path("lines/<slug:key>/remove/", editing.line_remove, name="line_remove"),
    path("lines/<slug:key>/balance/", editing.line_balance, name="line_balance"),
]
urlpatterns = [
    path("", pages.formula_list, name="list"),
    path("new/", pages.formula_new, name="new"),
    path("paste/", pages.paste, name="paste"),
    path("<row:pk>/", pages.formula, name="formula"),
    path("<row:pk>/versions/", pages.versions, name="versions"),
    path("<row:pk>/details/", pages.details, name="details"),
    path("<row:pk>/v/<row:number>/", include(version)),
]
