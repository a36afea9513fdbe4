"""The one reader of amounts and recipes."""
