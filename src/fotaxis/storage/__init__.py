"""PostgreSQL behind services.ports: tables, repository, migrations.

tables: the rows; repository: one transaction's view; database: engine and migrations. Rows never leave this package.
"""
