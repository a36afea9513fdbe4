"""Parse, call, respond, a module a step of the work."""
