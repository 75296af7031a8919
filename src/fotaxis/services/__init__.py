"""What a user sets out to do, one file each; ports.py says what the world outside must offer.

accounts, jobs, shots, changes (edits and undo), pictures (predictions), test_frames, sheet.
"""
