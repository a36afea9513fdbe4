"""Every page that a maker sees, by the name of its address: each is walked at every width."""

PAGES = {"away"} | {
    f"{app}:{name}"
    for app, names in {
        "accounts": "first_bench household maker_password password settings",
        "exchange": "formula_import log_import pantry_import records",
        "formulas": (
            "all_at_once copy details finishes formula list new paste recipe sheet swap "
            "target trio version versions without"
        ),
        "pantry": (
            "container containers infusion lot making material material_correct material_new pantry"
        ),
        "pours": (
            "card check compare fill fill_sheet help help_topic history label_print "
            "label_sheets labels learned list next of_lot pieces pour press ready_by route "
            "rules run series story today vary"
        ),
    }.items()
    for name in names.split()
}
