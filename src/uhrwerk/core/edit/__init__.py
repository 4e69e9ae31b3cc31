"""All that makes or takes commands: each change of a document goes through here."""
