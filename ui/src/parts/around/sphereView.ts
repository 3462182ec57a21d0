import type { Schemas } from "../../api/client";

export type Panorama = Schemas["Panorama"];
export type Picture = HTMLImageElement | HTMLVideoElement;

const VERTEX = "attribute vec2 p;varying vec2 at;void main(){at=p;gl_Position=vec4(p,0.,1.);}";
/** Looks up, for each pixel of a flat view, where in the panorama its direction lies. */
const FRAGMENT = `precision highp float;
varying vec2 at;uniform sampler2D sphere;uniform vec2 turn;uniform vec2 reach;uniform float covers;
uniform vec2 eye;uniform vec2 texel;
const float PI=3.14159265358979;
void main(){
  vec3 d=normalize(vec3(at*reach,-1.));
  float c=cos(turn.y),s=sin(turn.y);
  d=vec3(d.x,d.y*c-d.z*s,d.y*s+d.z*c);
  float lon=atan(d.x,-d.z)+turn.x;
  float lat=asin(clamp(d.y,-1.,1.));
  float u=lon/(2.*PI)*covers+.5;
  if(covers<1.5)u=fract(u);
  vec2 place=clamp(vec2(u,.5-lat/PI)*eye,texel*.5,eye-texel*.5);
  gl_FragColor=(u<0.||u>1.)?vec4(.2,.2,.2,1.):texture2D(sphere,place);
}`;

/** Degrees to the right of straight ahead, and above the horizon; and the field of view across. */
export interface Turn {
  right: number;
  up: number;
  view: number;
}

export interface SphereView {
  /** Take a picture; of one for two eyes the left eye's half is seen. */
  show(picture: Picture): void;
  look(turn: Turn): void;
}

/** Draws views from the middle of a sphere; null where the browser has no WebGL. */
export function sphereView(canvas: HTMLCanvasElement, panorama: Panorama): SphereView | null {
  const gl = canvas.getContext("webgl", { preserveDrawingBuffer: true });
  const program = gl && linked(gl);
  if (!gl || !program) return null;
  const uniform = (name: string) => gl.getUniformLocation(program, name);
  // biome-ignore lint/correctness/useHookAtTopLevel: WebGL's own name, and no hook of React
  gl.useProgram(program);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.bindAttribLocation(program, 0, "p");
  gl.vertexAttribPointer(gl.getAttribLocation(program, "p"), 2, gl.FLOAT, false, 0, 0);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  for (const wrap of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T])
    gl.texParameteri(gl.TEXTURE_2D, wrap, gl.CLAMP_TO_EDGE);
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
  gl.uniform1f(uniform("covers"), panorama.covers === "half" ? 2 : 1);
  gl.uniform2f(
    uniform("eye"),
    panorama.eyes === "left-right" ? 0.5 : 1,
    panorama.eyes === "top-bottom" ? 0.5 : 1,
  );
  gl.viewport(0, 0, canvas.width, canvas.height);
  const most = gl.getParameter(gl.MAX_TEXTURE_SIZE) as number;
  return {
    show(picture) {
      const drawn = within(picture, most);
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, drawn.source);
      gl.uniform2f(uniform("texel"), 1 / drawn.width, 1 / drawn.height);
    },
    look(turn) {
      const radians = Math.PI / 180;
      const wide = Math.tan((turn.view * radians) / 2);
      gl.uniform2f(uniform("turn"), turn.right * radians, turn.up * radians);
      gl.uniform2f(uniform("reach"), wide, (wide * canvas.height) / canvas.width);
      gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
    },
  };
}

function linked(gl: WebGLRenderingContext): WebGLProgram | null {
  const program = gl.createProgram();
  for (const [kind, text] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, FRAGMENT],
  ] as const) {
    const shader = gl.createShader(kind);
    if (!shader) return null;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return gl.getProgramParameter(program, gl.LINK_STATUS) ? program : null;
}

/** A picture no larger than the graphics can take. */
function within(picture: Picture, most: number): { source: TexImageSource; width: number; height: number } {
  const [width, height] =
    picture instanceof HTMLVideoElement
      ? [picture.videoWidth, picture.videoHeight]
      : [picture.naturalWidth, picture.naturalHeight];
  const scale = Math.min(1, most / Math.max(width, height));
  if (scale === 1) return { source: picture, width, height };
  const smaller = document.createElement("canvas");
  smaller.width = Math.floor(width * scale);
  smaller.height = Math.floor(height * scale);
  smaller.getContext("2d")?.drawImage(picture, 0, 0, smaller.width, smaller.height);
  return { source: smaller, width: smaller.width, height: smaller.height };
}
