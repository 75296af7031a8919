"""All routes in one list.

accounts: set-up and sign-in; jobs: jobs and their shots; bench: one shot's page and its changes;
pictures: predicted pictures; live: pictures while something is dragged; frames: photographs; sheet: the set sheet.
"""

from fotaxis.web.routes import accounts, bench, frames, jobs, live, pictures, sheet

ROUTERS = (
    accounts.router, jobs.router, bench.router, pictures.router, live.router, frames.router, sheet.router,
)  # fmt: skip
