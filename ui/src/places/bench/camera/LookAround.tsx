import { type PointerEvent, useEffect, useRef, useState } from "react";
import { useWheel } from "../../../parts/useWheel";

const VERTEX = "attribute vec2 p;varying vec2 at;void main(){at=p;gl_Position=vec4(p,0.,1.);}";
/** Looks up, for each pixel of a flat view, where in the panorama its direction lies. */
const FRAGMENT = `precision highp float;
varying vec2 at;uniform sampler2D sphere;uniform vec2 turn;uniform vec2 reach;uniform float covers;
const float PI=3.14159265358979;
void main(){
  vec3 d=normalize(vec3(at*reach,-1.));
  float c=cos(turn.y),s=sin(turn.y);
  d=vec3(d.x,d.y*c-d.z*s,d.y*s+d.z*c);
  float lon=atan(d.x,-d.z)+turn.x;
  float lat=asin(clamp(d.y,-1.,1.));
  float u=lon/(2.*PI)*covers+.5;
  if(covers<1.5)u=fract(u);
  gl_FragColor=(u<0.||u>1.)?vec4(.2,.2,.2,1.):texture2D(sphere,vec2(u,.5-lat/PI));
}`;

interface Props {
  /** Address of an equirectangular picture. */
  address: string;
  half?: boolean;
  eyes: "one" | "top-bottom" | "left-right";
}

/** A captured sphere, looked at from its middle: drag or arrow keys to look around, wheel for the field of view. */
export function LookAround({ address, half = false, eyes }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [turn, setTurn] = useState({ right: 0, up: 0, view: 90 });
  const [image, setImage] = useState<HTMLCanvasElement | null>(null);
  const [failed, setFailed] = useState(false);
  const from = useRef<{ x: number; y: number; right: number; up: number } | null>(null);
  useEffect(() => {
    const loaded = new Image();
    loaded.onload = () => setImage(oneEye(loaded, eyes));
    loaded.src = address;
  }, [address, eyes]);
  const draw = useRef<((turn: Turn) => void) | null>(null);
  const now = useRef(turn);
  now.current = turn;
  useEffect(() => {
    if (!canvas.current || !image) return;
    draw.current = prepared(canvas.current, image, half);
    setFailed(draw.current === null);
    draw.current?.(now.current);
  }, [image, half]);
  useEffect(() => draw.current?.(turn), [turn]);
  useWheel(canvas, (event) =>
    setTurn((old) => ({ ...old, view: bounded(old.view * Math.exp(event.deltaY / 900), 20, 130) })),
  );
  const look = (right: number, up: number) => setTurn((old) => ({ ...old, right, up: bounded(up, -90, 90) }));
  const onMove = (event: PointerEvent) => {
    if (!from.current) return;
    const { x, y, right, up } = from.current;
    const scale = turn.view / 500;
    look(right - (event.clientX - x) * scale, up + (event.clientY - y) * scale);
  };
  if (failed) return <p className="p-4 text-white">This browser draws no spheres: WebGL is switched off.</p>;
  return (
    <canvas
      ref={canvas}
      width={960}
      height={540}
      tabIndex={0}
      aria-label="Sphere: arrow keys look around, plus and minus change the field of view"
      data-testid="look-around"
      className="max-h-full max-w-full cursor-grab touch-none active:cursor-grabbing"
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { x: event.clientX, y: event.clientY, right: turn.right, up: turn.up };
      }}
      onPointerMove={onMove}
      onPointerUp={() => {
        from.current = null;
      }}
      onKeyDown={(event) => {
        const step = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, 5], ArrowDown: [0, -5] }[
          event.key
        ];
        if (step) look(turn.right + step[0], turn.up + step[1]);
        else if (event.key === "+") setTurn({ ...turn, view: bounded(turn.view / 1.1, 20, 130) });
        else if (event.key === "-") setTurn({ ...turn, view: bounded(turn.view * 1.1, 20, 130) });
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    />
  );
}

const bounded = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);

/** The left eye's half of a picture for two. */
function oneEye(image: HTMLImageElement, eyes: Props["eyes"]): HTMLCanvasElement {
  const own = document.createElement("canvas");
  own.width = image.naturalWidth / (eyes === "left-right" ? 2 : 1);
  own.height = image.naturalHeight / (eyes === "top-bottom" ? 2 : 1);
  own.getContext("2d")?.drawImage(image, 0, 0);
  return own;
}

interface Turn {
  right: number;
  up: number;
  view: number;
}

/** Makes ready to draw views of a sphere; null where the browser cannot. */
function prepared(canvas: HTMLCanvasElement, image: HTMLCanvasElement, half: boolean) {
  const gl = canvas.getContext("webgl", { preserveDrawingBuffer: true });
  if (!gl) return null;
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
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) return null;
  // biome-ignore lint/correctness/useHookAtTopLevel: WebGL's own name, and no hook of React
  gl.useProgram(program);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.bindAttribLocation(program, 0, "p");
  gl.vertexAttribPointer(gl.getAttribLocation(program, "p"), 2, gl.FLOAT, false, 0, 0);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, image);
  for (const wrap of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T])
    gl.texParameteri(gl.TEXTURE_2D, wrap, gl.CLAMP_TO_EDGE);
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
  gl.uniform1f(gl.getUniformLocation(program, "covers"), half ? 2 : 1);
  gl.viewport(0, 0, canvas.width, canvas.height);
  const radians = Math.PI / 180;
  return (turn: Turn) => {
    const tall = Math.tan((turn.view * radians) / 2) * (canvas.height / canvas.width);
    gl.uniform2f(gl.getUniformLocation(program, "turn"), turn.right * radians, turn.up * radians);
    gl.uniform2f(gl.getUniformLocation(program, "reach"), (tall * canvas.width) / canvas.height, tall);
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4);
  };
}
