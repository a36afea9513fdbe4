"""Every page that a maker sees, by the name of its address: each is walked at every width."""

PAGES = {"away"} | {
    f"{app}:{name}"
    for app, names in {
        "accounts": "first_bench household maker_password password settings",
        "exchange": "formula_import pantry_import pours_import records",
        "help": "index topic",
        "formulas": (
            "amounts copy details finishes formula list map new paste recipe seasons sheet swap "
            "target version versions without"
        ),
        "pantry": (
            "container containers infusion lot making material material_correct material_new pantry "
            "rendering"
        ),
        "plans": "fill fill_sheet series vary",
        "pours": "list pour route run",
        "checks": "calibration check compare history next press reaction story",
        "packing": "card deadlines items label_print label_sheets labels of_lot pieces rules",
        "overview": "today",
    }.items()
    for name in names.split()
}
