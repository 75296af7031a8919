"""The demo: an invented studio with its products and kit, loaded through services as a user would.

scenario: who and what; *.json: its shots as shot files.
"""
