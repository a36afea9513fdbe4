"""What the pantry pages show, a module a page."""
