"""Keys of what a shot has only once; lights, cards and further products have keys of their own."""

PRODUCT_KEY, CAMERA_KEY, ROOM_KEY = "product", "camera", "room"
TABLE_KEY, RISER_KEY, BACKGROUND_KEY = "table", "riser", "background"

RESERVED_KEYS = (PRODUCT_KEY, CAMERA_KEY, ROOM_KEY)
"""What no light, card or further product may be called by."""
ALL_SHARP = "all sharp"
"""The focus of a lens that shows everything sharp."""
