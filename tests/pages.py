"""Every page that a maker sees, by the name of its address: each is walked at every width."""

PAGES = {"away"} | {
    f"{app}:{name}"
    for app, names in {
        "accounts": "first_bench household maker_password password settings",
        "exchange": "formula_import pantry_import pours_import records",
        "help": "index topic",
        "formulas": (
            "amounts copy details finishes formula list map new paste recipe sheet swap "
            "target version versions without"
        ),
        "pantry": (
            "container containers infusion lot making material material_correct material_new pantry"
        ),
        "pours": (
            "calibration card check compare deadlines fill fill_sheet history label_print "
            "label_sheets labels list next of_lot pieces pour press route "
            "rules run series story today vary"
        ),
    }.items()
    for name in names.split()
}
