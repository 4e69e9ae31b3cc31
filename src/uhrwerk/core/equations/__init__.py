"""Equations: poses, rows between links, their solution for one pose or a stack of them."""
