from django.urls import path

from calmtin.packing.views import card, items, labels, pieces

app_name = "packing"
urlpatterns = [
    path("pours/<row:pk>/card/", card.card, name="card"),
    path("pours/<row:pk>/card.json", card.card_file, name="card_file"),
    path("pours/<row:pk>/storage/", card.storage, name="storage"),
    path("pours/<row:pk>/labels/", labels.labels, name="labels"),
    path("pours/<row:pk>/scan/", labels.scan, name="scan"),
    path("labels/<row:pk>/", labels.label_print, name="label_print"),
    path("labels/<row:pk>/sheet.pdf", labels.label_file, {"kind": "pdf"}, name="label_pdf"),
    path("labels/<row:pk>/sheet.png", labels.label_file, {"kind": "png"}, name="label_png"),
    path("labels/<row:pk>/sheet.svg", labels.label_file, {"kind": "svg"}, name="label_svg"),
    path("labels/sheets/", labels.label_sheets, name="label_sheets"),
    path("labels/sheets/<row:pk>/remove/", labels.label_sheet_drop, name="label_sheet_remove"),
    path("labels/rules/", pieces.rules, name="rules"),
    path("pours/<row:pk>/pieces/", pieces.pieces, name="pieces"),
    path("pours/<row:pk>/hours/", pieces.hours, name="hours"),
    path("pours/<row:pk>/pack/", items.pack, name="pack"),
    path("packing/items/", items.items, name="items"),
    path("packing/<row:pk>/undo/", items.unpack, name="unpack"),
    path("pieces/<row:pk>/undo/", pieces.piece_back, name="piece_undo"),
    path("deadlines/", pieces.ready_by, name="deadlines"),
    path("deadlines/<row:pk>/remove/", pieces.need_off, name="deadline_remove"),
    path("pantry/lots/<row:pk>/pours/", card.of_lot, name="of_lot"),
]
