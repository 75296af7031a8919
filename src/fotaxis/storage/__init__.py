"""PostgreSQL behind services.ports: tables, one transaction's view of them, news, bytes, migrations. Rows never leave this package.

tables: the rows; people_rows, studio_rows, shot_rows, picture_rows: the view by subject, put together in repository; database:
engine, time limits, migrations; news: what happens in any process; blobs: bytes here or in an object store.
"""
