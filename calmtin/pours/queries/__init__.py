"""What the pour pages show, a module a page."""
