"""The player: a motion that anybody can look at, in one file without Uhrwerk."""

from uhrwerk.core.player.page import as_page

__all__ = ["as_page"]
