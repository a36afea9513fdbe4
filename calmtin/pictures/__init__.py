"""Geometry for the pictures: numbers in, coordinates out. No database, no requests."""
