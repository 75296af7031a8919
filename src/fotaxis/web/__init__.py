"""The pages: FastAPI routes, typed page models, templates, static files.

app: puts it together; guard: who is asking and may they change things; links: every address; routes/: all routes;
views/: page models and drawings; templates/ and static/.
"""
