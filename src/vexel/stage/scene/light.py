"""The stage's light: an even, flattering one that the camera carries, so that a turntable keeps it.

It is written as a custom shader because it is most of a picture's cost in
software: VTK's lights work out a power and several norms a light for every
fragment, these two are uniforms before the camera. (Of a 1080p picture of
179,000 triangles VTK's four lights took 230 ms, two of them 210, these 124.)
"""

from collections.abc import Mapping, Sequence
from math import cos, radians, sin
from typing import Final

import numpy as np
from numpy.typing import NDArray
from vtkmodules.vtkRenderingCore import vtkActor

CLAY = "#cfc6b8"
"""Colour of a part without one, and of all in the pass of that name."""
AMBIENT = 0.24
KEY_STRENGTH, KEY_COLOUR = 0.67, (1.0, 0.985, 0.96)
_FILL = (44.0, 2.0, 0.39, (0.95, 0.975, 1.0))
"""Azimuth and elevation from the camera in degrees, strength, colour."""
_GLINT = 0.13
"""Strength of the key's reflection, with a half vector for a viewer far away and a power of 32."""
LIT: Final = 0
NORMALS: Final = 1
PLAIN: Final = 2
NORMALS_HIGH: Final = 3
NORMALS_LOW: Final = 4
"""What the shader gives: lit colour, the normal as a colour, one colour, or 8 of the 16 bits of a normal."""


def shade_code(own_colour: str = "", lit: bool = True) -> str:
    """Fragment code in place of VTK's lighting, in the camera's coordinates (+z to the viewer).

    Parameters
    ----------
    own_colour : str
        Code that sets the surface's colour before it is lit.
    lit : bool
        Whether light falls on it; else its colour is shown unlit.
    """
    fill = toward(*_FILL[:2])
    unlit = "" if lit else "lit = vec3(1.0); glint = 0.0;"
    return f"""
  {own_colour}
  vec3 facing = normalVCVSOutput * mat3(toRight, toUp, toBack);
  if (gives == {NORMALS}) {{
    fragOutput0 = vec4(0.5 * facing + 0.5, 1.0);
  }} else if (gives == {NORMALS_HIGH} || gives == {NORMALS_LOW}) {{
    vec3 code = floor(65535.0 * (0.5 * facing + 0.5) + 0.5);
    vec3 high = floor(code / 256.0);
    fragOutput0 = vec4((gives == {NORMALS_HIGH} ? high : code - 256.0 * high) / 255.0, 1.0);
  }} else if (gives == {PLAIN}) {{
    fragOutput0 = vec4(plainColour, 1.0);
  }} else {{
    vec3 lit = vec3({AMBIENT})
      + max(dot(facing, keyToward), 0.0) * keyLight
      + max(dot(facing, {_vec(fill)}), 0.0) * {_vec(tuple(c * _FILL[2] for c in _FILL[3]))};
    vec3 around = mix(earthLight, skyLight, 0.5 + 0.5 * dot(facing, worldUp));
    lit = mix(lit, around, aroundShare);
    float glint = max(dot(facing, keyHalf), 0.0);
    glint *= glint; glint *= glint; glint *= glint; glint *= glint; glint *= glint;
    {unlit}
    fragOutput0 = vec4(lit * mix(diffuseColor, plainColour, plainShare) + vec3(keyGlint * glint), opacity);
  }}
"""


def set_key(actor: vtkActor, stage: Mapping[str, float]) -> None:
    """Set the lights of a part: where the key is, from the camera, and how strong; and what is all round."""
    where = toward(stage.get("light:azimuth", -36.0), stage.get("light:elevation", 34.0))
    strength = stage.get("light:strength", 1.0)
    half = (where[0], where[1], where[2] + 1.0)
    norm = max(sum(c * c for c in half) ** 0.5, 1e-9)
    uniforms = actor.GetShaderProperty().GetFragmentCustomUniforms()
    uniforms.SetUniform3f("keyToward", where)
    uniforms.SetUniform3f("keyHalf", [c / norm for c in half])
    uniforms.SetUniform3f("keyLight", [c * KEY_STRENGTH * strength for c in KEY_COLOUR])
    uniforms.SetUniformf("keyGlint", _GLINT * strength)
    # Above as bright as the sky alone would make it, below as the earth (hemisphere lighting, common practice).
    uniforms.SetUniformf("aroundShare", stage.get("environment", 0.0))
    for name, of in (("skyLight", "sky"), ("earthLight", "earth"), ("worldUp", "up")):
        uniforms.SetUniform3f(name, [stage.get(f"environment:{of}:{n}", 0.0) for n in range(3)])


def set_gives(actor: vtkActor, gives: int, colour: Sequence[float] | None, is_data: bool) -> None:
    """Set what the shader gives, and the one colour of a part, 0 to 1; None keeps the part's own colours.

    Of data, a texture's clear half is cut away, and the rest is opaque.
    """
    uniforms = actor.GetShaderProperty().GetFragmentCustomUniforms()
    uniforms.SetUniformi("gives", gives)
    uniforms.SetUniformi("isData", int(is_data))
    uniforms.SetUniform3f("plainColour", colour or (0.0, 0.0, 0.0))
    uniforms.SetUniformf("plainShare", 0.0 if colour is None else 1.0)


def set_turn(actor: vtkActor, turn: NDArray[np.float64] | None) -> None:
    """Set how a part of a panorama is turned to its camera, shape (3, 3); None is not at all.

    A reflection, which would end where such parts meet, is left out there.
    """
    uniforms = actor.GetShaderProperty().GetFragmentCustomUniforms()
    if turn is not None:
        uniforms.SetUniformf("keyGlint", 0.0)
    rows = np.eye(3) if turn is None else turn
    for name, row in zip(("toRight", "toUp", "toBack"), rows, strict=True):
        uniforms.SetUniform3f(name, row.tolist())


def toward(azimuth: float, elevation: float) -> tuple[float, float, float]:
    """Unit vector toward a light, in the camera's coordinates; degrees."""
    a, e = radians(azimuth), radians(elevation)
    return sin(a) * cos(e), sin(e), cos(a) * cos(e)


def _vec(values: tuple[float, ...]) -> str:
    return "vec3(" + ", ".join(f"{value:.6f}" for value in values) + ")"
