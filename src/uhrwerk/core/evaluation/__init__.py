"""Evaluation: a document in, verdicts out; and every number of it by its path."""
