"""Kinds made up by a stranger: one file each, and the line that registers it."""
