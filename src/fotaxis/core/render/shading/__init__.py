"""Walking traced paths.

first_hits: which emitter a segment ends on; shade_paths: what they add up to, per light or mixed; mirror_masks: where a picture
shows a thing mirrored.
"""
