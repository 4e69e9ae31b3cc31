"""Everything that creates or accepts commands: each change of a document goes through here."""
