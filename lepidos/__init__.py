"""Lepidos: for people who clean their own catch."""

__version__ = "0.1.0"
