"""Parse, call, respond, a module a page."""
