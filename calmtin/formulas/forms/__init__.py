"""Parse what the formula pages send, a module a page."""
