"""All routes in one list.

accounts: set-up and sign-in; jobs: jobs and their shots; beginnings: a new shot from pictures; bench: one shot's page and its changes;
pictures: predicted pictures; live: pictures while something is dragged; frames: photographs; sheet: the set sheet;
products: shapes and models of what is photographed; materials: what things can be made of; light_page: heads and
what shapes their light; finals: pictures made by workers; spots: pointing at the frame; states: every state a shot has
been in; wishes: what its picture must show; looking: links for a client's screen; people: accounts, the studio, its
history; kit: what the studio owns; captures: several exposures of one set; shooting: the list at the set; reckoner: the
arithmetic of the set, with and without a shot; book: shots
found by anything, and series; watch: health and figures.
"""

from fotaxis.web.routes import (
    accounts,
    beginnings,
    bench,
    book,
    captures,
    client_view,
    finals,
    frames,
    jobs,
    kit,
    light_page,
    live,
    materials,
    people,
    pictures,
    products,
    reckoner,
    sheet,
    shooting,
    spots,
    states,
    watch,
    wishes,
)

ROUTERS = (
    accounts.router, jobs.router, beginnings.router, bench.router, pictures.router, live.router, frames.router, sheet.router,
    products.router, materials.router, light_page.router, finals.router, spots.router, states.router, client_view.router,
    people.router, kit.router, wishes.router, captures.router, shooting.router, reckoner.router, book.router, watch.router,
)  # fmt: skip
