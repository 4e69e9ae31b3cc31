"""Pages and calls, one noun a file."""

from uhrwerk.web.routes import (
    by_hand,
    drafts,
    drawings,
    elements,
    events,
    files,
    joining,
    materials,
    mechanisms,
    pages,
    print_layers,
    remedies,
    reports,
    results,
    revisions,
    searching,
    timing,
    turning,
)

#: in the order in which the calls are listed
ROUTERS = [
    x.router
    for x in (
        pages,
        mechanisms,
        revisions,
        results,
        remedies,
        joining,
        by_hand,
        elements,
        materials,
        files,
        timing,
        drafts,
        drawings,
        turning,
        searching,
        events,
        print_layers,
        reports,
    )
]

__all__ = ["ROUTERS"]
