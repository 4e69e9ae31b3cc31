"""A part: how its solid is made, and the datums that it is joined by."""
