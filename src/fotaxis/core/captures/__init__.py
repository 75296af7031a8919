"""Several exposures of one set, and how they are joined.

areas: where things lie in the frame; masks: parts of the frame, feathered; composite: exposures joined in linear light;
order: in which order they are shot; clock: when each step is; likeness: how alike two pictures of a range are.
"""
