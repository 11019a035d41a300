"""Undo, of all stations."""
