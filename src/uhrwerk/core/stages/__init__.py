"""Stages: what is known of a document when it has come so far, and the verdicts."""
