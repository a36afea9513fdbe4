"""What the pour pages send, parsed."""
