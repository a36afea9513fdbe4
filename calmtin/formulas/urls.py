from django.urls import include, path

from calmtin.formulas.views import (
    amounts,
    cautions,
    copy,
    finishes,
    formula,
    lines,
    lists,
    paste,
    swap,
    target,
    trio,
    without,
)

app_name = "formulas"
version = [
    path("", formula.formula, name="version"),
    path("next/", lines.next_version, name="next_version"),
    path("batch/", lines.batch, name="batch"),
    path("process/", lines.process, name="process"),
    path("lines/", lines.line_add, name="line_add"),
    path("lines/<slug:key>/percent/", lines.line_percent, name="line_percent"),
    path("lines/<slug:key>/strength/", lines.line_strength, name="line_strength"),
    path("lines/<slug:key>/trade/", lines.line_trade, name="line_trade"),
    path("lines/<slug:key>/lock/", lines.line_lock, name="line_lock"),
    path("lines/<slug:key>/swap/", swap.swaps, name="swap"),
    path("all/", amounts.all_at_once, name="all_at_once"),
    path("without/", without.without, name="without"),
    path("finishes/", finishes.finishes, name="finishes"),
    path("finishes/<row:finish>/remove/", finishes.finish_remove, name="finish_remove"),
    path("copy/", copy.copy, name="copy"),
    path("sheet/", copy.sheet, name="sheet"),
    path("undo/", lines.undo, name="undo"),
    path("redo/", lines.redo, name="redo"),
    path("scents/fit/", lines.fit_scents, name="fit_scents"),
    path("target/", target.target, name="target"),
    path("acknowledge/", cautions.acknowledge, name="acknowledge"),
    path("apply/", target.apply, name="apply"),
    path("trio/", trio.trio, name="trio"),
    path("lines/<slug:key>/remove/", lines.line_remove, name="line_remove"),
    path("lines/<slug:key>/balance/", lines.line_balance, name="line_balance"),
]
urlpatterns = [
    path("", lists.formula_list, name="list"),
    path("new/", lists.formula_new, name="new"),
    path("paste/", paste.paste, name="paste"),
    path("<row:pk>/", formula.formula, name="formula"),
    path("<row:pk>/versions/", formula.versions, name="versions"),
    path("<row:pk>/details/", formula.details, name="details"),
    path("<row:pk>/v/<row:number>/", include(version)),
]
