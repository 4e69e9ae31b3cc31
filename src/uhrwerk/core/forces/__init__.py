"""Forces: what acts on the links, and what must act in joints and drives."""
