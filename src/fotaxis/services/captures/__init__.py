"""A shot as a plan of captures: several exposures of one set, joined.

capture: one of them, made from the present state and set up again; words: what differs from one to the next; composite: all joined,
with readings and wishes; needed: which the set asks for; shooting: the list at the set, in order, with times.
"""
