"""A surface's own colour: its texture and the colours of its points, read, interpolated and multiplied as light.

Graphics libraries interpolate sRGB codes, which makes the middle between two colours too dark. Here textures are
decoded before they are filtered, colours of points travel as linear light, and codes are made last.
"""

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.vtkCommonDataModel import vtkDataObject
from vtkmodules.vtkRenderingCore import vtkPolyDataMapper, vtkTexture

from vexel.imaging.light import encoded, light_of
from vexel.imaging.transfer import LINEAR
from vexel.sources.meshes.parts import Part

LIGHT = "vexel-light"
"""Point array of linear light and alpha, shape (N, 4)."""
_TO_CODE = """
vec3 toCode(vec3 light) {
  return mix(light * 12.92, 1.055 * pow(max(light, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), light));
}
"""


def blends_points(part: Part) -> bool:
    """Whether a part has colours of its points, which the surface between them blends."""
    return bool(part.direct) and part.direct in part.mesh.point_data and part.mesh.n_faces == part.mesh.n_cells


def with_light(mesh: pv.PolyData, direct: str) -> pv.PolyData:
    """A mesh with the colours of its points as linear light."""
    mesh = mesh.copy(deep=False)
    codes = np.asarray(mesh.point_data[direct])
    light = np.ones((len(codes), 4), np.float32)
    light[:, :3] = LINEAR[0, :, 0][codes[:, :3]]
    if codes.shape[1] == 4:
        light[:, 3] = codes[:, 3] / np.float32(255)
    mesh.point_data[LIGHT] = light
    return mesh


def light_mapper(mesh: pv.PolyData) -> vtkPolyDataMapper:
    """A mapper that gives the shader the light of a mesh's points."""
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(mesh)
    mapper.ScalarVisibilityOff()
    mapper.MapDataArrayToVertexAttribute("pointLight", LIGHT, vtkDataObject.FIELD_ASSOCIATION_POINTS, -1)
    return mapper


def texture_of(part: Part) -> pv.Texture:
    """A part's texture: decoded to light before it is filtered, its colours times alpha."""
    assert part.texture is not None
    texture = pv.Texture(_premultiplied(part.texture))
    texture.SetUseSRGBColorSpace(True)
    texture.SetInterpolate(part.filters)
    texture.SetMipmap(part.filters)
    # In software two samples along the slant cost as much as the whole of a picture; jittered samples do it better.
    texture.SetMaximumAnisotropicFiltering(1.0)
    texture.SetWrap(vtkTexture.ClampToEdge if part.clamps else vtkTexture.Repeat)
    return texture


def colour_shader(actor: pv.Actor, textured: bool, light: bool, cutoff: float) -> str:
    """Prepare a part's shader to read its own colour; the code that does, to come before the lighting."""
    shader = actor.GetShaderProperty()
    declared = _TO_CODE
    if light:
        shader.AddVertexShaderReplacement(
            "//VTK::Normal::Dec", True, "//VTK::Normal::Dec\nin vec4 pointLight; out vec4 pointLightVS;", False
        )
        shader.AddVertexShaderReplacement(
            "//VTK::Normal::Impl", True, "//VTK::Normal::Impl\n  pointLightVS = pointLight;", False
        )
        declared = "in vec4 pointLightVS;\n" + declared
    shader.AddFragmentShaderReplacement("//VTK::Normal::Dec", True, "//VTK::Normal::Dec\n" + declared, False)
    code = "vec4 own = pointLightVS;" if light else "vec4 own = vec4(1.0);"
    if textured:
        # What the library does with a texture comes after the lighting: it is done here.
        shader.AddFragmentShaderReplacement("//VTK::TCoord::Impl", True, "", False)
        code += """
  vec4 texel = texture(actortexture, tcoordVCVSOutput);
  own *= vec4(texel.rgb / max(texel.a, 1e-4), texel.a);"""
    cut = f"if (own.a < {cutoff:.6f}) {{ discard; }} own.a = 1.0;" if cutoff else ""
    cut += " if (isData != 0) { if (own.a < 0.5) { discard; } own.a = 1.0; }"
    return f"{code}\n  {cut}\n  diffuseColor = toCode(own.rgb); opacity *= own.a;\n"


def _premultiplied(image: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Codes of colours times alpha, so that filtering mixes nothing of what is clear."""
    if image.shape[-1] == 3 or (image[..., 3] == 255).all():
        return image
    light = light_of(image)
    codes = encoded(np.dstack([light[..., :3], np.ones_like(light[..., 3])]))
    codes[..., 3] = image[..., 3]
    return codes
