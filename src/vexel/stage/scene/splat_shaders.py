"""Shader code for points: replacements for lines of VTK's own shaders.

VTK draws a soft point as the affine approximation of its projection (Zwicker et al., "EWA Splatting", 2002, eq. 29
and 31), as those programs do that scans are made with. That holds near the middle of a view. In a panorama each point
is drawn on a plane that faces the eye: where two views meet, both show the same.
"""

from vtkmodules.vtkRenderingCore import vtkShaderProperty

from vexel.stage.scene.light import PLAIN

Replacement = tuple[str, str]
DISC = """//VTK::Color::Impl
float far2 = dot(offsetVCVSOutput.xy, offsetVCVSOutput.xy);
if (far2 > 1.0) { discard; }
opacity = 1.0;
"""
SOLID = f"""//VTK::Light::Impl
if (opacity < 0.5) {{ discard; }}
fragOutput0.a = 1.0;
if (gives == {PLAIN}) {{ fragOutput0.rgb = plainColour; }}
"""
TIMES_ALPHA = """//VTK::Light::Impl
fragOutput0.rgb *= fragOutput0.a;
"""
"""Blended as colour times alpha, a colour above 1 is cut after it was weakened, and not before."""
BRIGHTNESS = (
    "//VTK::Color::Impl",
    "//VTK::Color::Impl\n  vertexColorVSOutput.rgb *= length(rotationMC);",
)
"""Colours come as bytes. A brighter one is divided by the length of its quaternion, which turns by its direction."""
ANY_SIZE = ("if (abs(cov2d[0][1]) > 1e-6)", "if (abs(cov2d[0][1]) > 1e-6 * (cov2d[0][0] + cov2d[1][1]))")
"""The axes of small points are turned too: VTK asks in frames, of which a pixel is a small part."""
REACH = 3.33
"""Half axes at which a soft point of full opacity has faded to less than a code."""
AS_FAR_AS_SEEN: tuple[Replacement, ...] = (
    (
        "vec4 posNDC = gl_in[0].gl_Position;",
        """float share = sqrt(2.0 * log(max(255.0 * vertexColorVSOutput[0].a, 1.0))) / boundScale;
  vec4 posNDC = gl_in[0].gl_Position;""",
    ),
    (
        "vec2 offset = transformVCVSOutput[0] * offsets[i];",
        """vec2 corner = offsets[i] * min(share, 1.0);
    vec2 offset = transformVCVSOutput[0] * corner;""",
    ),
    ("offsetVCGSOutput = offsets[i];", "offsetVCGSOutput = corner;"),
)
"""A fainter one is drawn less far, up to where it has faded to a code."""
_FACING_VERTEX: tuple[Replacement, ...] = (
    ("out mat2 transformVCVSOutput;", "out mat2 transformVCVSOutput;\nout mat3 facingVSOutput;"),
    (
        "mat3 J = getProjectionMatrix(posVC.xyz);",
        """float far = max(length(posVC.xyz), 1e-20);
  vec3 away = posVC.xyz / far;
  vec3 across = normalize(cross(abs(away.y) < 0.9 ? vec3(0.0, 1.0, 0.0) : vec3(1.0, 0.0, 0.0), away));
  mat3 facing = mat3(across, cross(away, across), away);
  mat3 J = transpose(facing);
  facingVSOutput = mat3(facing[0], facing[1], posVC.xyz);""",
    ),
    (
        "cov2d += mat2(lowpassMatrix.x, lowpassMatrix.y, lowpassMatrix.y, lowpassMatrix.z);",
        "cov2d += far * far * mat2(lowpassMatrix.x, 0.0, 0.0, lowpassMatrix.x);",
    ),
    ("if (posDC.x < -1.3*posDC.w ||", "if (false && posDC.x < -1.3*posDC.w ||"),
    (" posDC.x > 1.3*posDC.w ||", " false && posDC.x > 1.3*posDC.w ||"),
    (" posDC.y < -1.3*posDC.w ||", " false && posDC.y < -1.3*posDC.w ||"),
    (" posDC.y > 1.3*posDC.w)", " false && posDC.y > 1.3*posDC.w)"),
)
_FACING_GEOMETRY: tuple[Replacement, ...] = (
    (
        "in mat2 transformVCVSOutput[];",
        "in mat2 transformVCVSOutput[];\nin mat3 facingVSOutput[];\nuniform mat4 VCDCMatrix;",
    ),
    (
        "gl_Position = vec4(posNDC.xy + offset, posNDC.zw);",
        "gl_Position = VCDCMatrix * vec4(facingVSOutput[0] * vec3(offset, 1.0), 1.0);",
    ),
)


def set_facing(shader: vtkShaderProperty, on: bool) -> None:
    """Draw soft points on planes that face the eye, as panoramas want it, or as flat views do."""
    for text, replacement in _FACING_VERTEX:
        if on:
            shader.AddVertexShaderReplacement(text, True, replacement, False)
        else:
            shader.ClearVertexShaderReplacement(text, True)
    for text, replacement in _FACING_GEOMETRY:
        if on:
            shader.AddGeometryShaderReplacement(text, True, replacement, False)
        else:
            shader.ClearGeometryShaderReplacement(text, True)


def set_solid(shader: vtkShaderProperty, on: bool) -> None:
    """Draw points where they cover half or more of what is behind, and there wholly; or blend them."""
    # No question in one shader that serves both: a tenth of a scan's time would go into asking it.
    shader.ClearFragmentShaderReplacement("//VTK::Light::Impl", True)
    shader.AddFragmentShaderReplacement("//VTK::Light::Impl", True, SOLID if on else TIMES_ALPHA, False)
