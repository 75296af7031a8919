"""Files and documents in and out: bytes <-> core values, one file per format.

shot_file: the shot as JSON; profile_csv, profile_svg: measured outlines; exr, png: pictures out; photo: frames in.
"""
