"""Avelt: choreograph how one screen of a prototype turns into the next."""

__version__ = "0.1.0"
