"""Random mechanisms that try to make Uhrwerk lie, each held against arithmetic that shares no code with it."""
