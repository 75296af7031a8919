"""Numbers of nature and of the standards: value, unit, source, once."""

from typing import Final

LENS_FACTOR_Q: Final = 0.65
"""Image-plane exposure per luminance, H = q L t / N^2 (dimensionless). ISO 2720 / ISO 12232 practice."""

SOS_EXPOSURE_LUX_S: Final = 10.0
"""S = 10 / H: standard output sensitivity, H gives the 18 % grey output level. ISO 12232."""

SATURATION_EXPOSURE_LUX_S: Final = 78.0
"""S = 78 / H_sat: saturation-based speed. ISO 12232."""

MIDDLE_GREY: Final = 0.18
"""Reflectance of the grey that all stops on the screen are counted from; sRGB 118/255. ISO 12232."""

INCIDENT_CONSTANT_FLAT: Final = 250.0
"""Incident meter calibration constant C, flat receptor, lux s. ISO 2720 (a calibration choice)."""

INCIDENT_CONSTANT_DOME: Final = 330.0
"""Incident meter calibration constant C, domed receptor, lux s. ISO 2720 (a calibration choice)."""

REFERENCE_ISO: Final = 100.0
"""The speed guide numbers are quoted for. Common practice."""

REC709_LUMINANCE: Final = (0.2126, 0.7152, 0.0722)
"""Relative luminance of linear Rec. 709 primaries, D65 white. ITU-R BT.709-6, item 3.2."""

GLASS_INDEX: Final = 1.50
"""Refractive index of common soda-lime glass, sodium light. From memory."""

ACRYLIC_INDEX: Final = 1.49
"""Refractive index of cast acrylic, sodium light. From memory."""

SURFACE_OFFSET_M: Final = 1e-5
"""How far a secondary ray starts off the surface it leaves: 2e-5 cm upwards is safe in float32 storage."""

DEEPEST_BLACK_STOPS: Final = -16.0
"""Stops from grey below which a reading is reported as black: no sensor tells them apart."""
