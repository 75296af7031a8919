"""What whoever looks after an installation does from a shell.

people: list, new passwords, owners, removal; backup: all of it into one file, and back.
"""
