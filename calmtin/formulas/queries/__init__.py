"""What the pages of a formula show, a module a page."""
