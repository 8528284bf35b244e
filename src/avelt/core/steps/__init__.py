"""Edits by name: a list of steps applied to a project through the same pure edits as the window's."""
