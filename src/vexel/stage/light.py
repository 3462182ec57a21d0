"""The stage's light: an even, flattering one that the camera carries, so that a turntable keeps it.

It is written as a shader of its own because it is most of a picture's cost in
software: VTK's lights work out a power and several norms a light for every
fragment, these two are constants before the camera.
"""

from math import cos, radians, sin

AMBIENT = 0.24
_KEY = (-36.0, 34.0, 0.67, (1.0, 0.985, 0.96))
_FILL = (44.0, 2.0, 0.39, (0.95, 0.975, 1.0))
"""Azimuth and elevation from the camera in degrees, strength, colour."""
_GLINT = 0.13
"""Strength of the key's reflection, with a half vector for a viewer far away and a power of 32."""


def shade_code() -> str:
    """Fragment code in place of VTK's lighting, in the camera's coordinates (+z to the viewer)."""
    key, fill = _toward(*_KEY[:2]), _toward(*_FILL[:2])
    half = (key[0], key[1], key[2] + 1.0)
    norm = sum(c * c for c in half) ** 0.5
    return f"""
  vec3 lit = vec3({AMBIENT})
    + max(dot(normalVCVSOutput, {_vec(key)}), 0.0) * {_vec(tuple(c * _KEY[2] for c in _KEY[3]))}
    + max(dot(normalVCVSOutput, {_vec(fill)}), 0.0) * {_vec(tuple(c * _FILL[2] for c in _FILL[3]))};
  float glint = max(dot(normalVCVSOutput, {_vec(tuple(c / norm for c in half))}), 0.0);
  glint *= glint; glint *= glint; glint *= glint; glint *= glint; glint *= glint;
  fragOutput0 = vec4(lit * diffuseColor + vec3({_GLINT} * glint), opacity);
"""


def _toward(azimuth: float, elevation: float) -> tuple[float, float, float]:
    a, e = radians(azimuth), radians(elevation)
    return sin(a) * cos(e), sin(e), cos(a) * cos(e)


def _vec(values: tuple[float, ...]) -> str:
    return "vec3(" + ", ".join(f"{value:.6f}" for value in values) + ")"
