// A panorama that is looked around in: dragging and the arrow keys turn the view, the wheel changes its angle.
(() => {
  const take = JSON.parse(document.getElementById("take").textContent);
  const stage = document.getElementById("stage");
  const canvas = document.createElement("canvas");
  const gl = canvas.getContext("webgl", { antialias: false });
  const video = document.createElement("video");
  Object.assign(video, { src: take.video, loop: take.plays === 0, muted: true, playsInline: true });
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  if (!gl) {
    video.controls = true;
    stage.replaceChildren(video);
    return;
  }
  const built = (kind, text) => {
    const shader = gl.createShader(kind);
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    return shader;
  };
  const program = gl.createProgram();
  gl.attachShader(program, built(gl.VERTEX_SHADER, "attribute vec2 at; varying vec2 seen; void main() { seen = at; gl_Position = vec4(at, 0, 1); }"));
  gl.attachShader(program, built(gl.FRAGMENT_SHADER, `
    precision highp float; varying vec2 seen; uniform sampler2D film; uniform vec4 look; uniform vec4 part; uniform float cover;
    void main() {
      vec3 ray = normalize(vec3(seen.x * look.z * look.w, seen.y * look.z, -1.0));
      float c = cos(look.y), s = sin(look.y);
      ray = vec3(ray.x, c * ray.y - s * ray.z, s * ray.y + c * ray.z);
      float across = atan(ray.x, -ray.z) + look.x;
      float x = fract(across / 6.2831853 + 0.5);
      x = (x - 0.5) / cover + 0.5;
      float y = 0.5 - asin(clamp(ray.y, -1.0, 1.0)) / 3.14159265;
      gl_FragColor = x < 0.0 || x > 1.0 ? vec4(0, 0, 0, 1) : texture2D(film, part.xy + part.zw * vec2(x, y));
    }`));
  gl.linkProgram(program);
  gl.useProgram(program);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
  const at = gl.getAttribLocation(program, "at");
  gl.enableVertexAttribArray(at);
  gl.vertexAttribPointer(at, 2, gl.FLOAT, false, 0, 0);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  for (const [name, value] of [[gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE], [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE], [gl.TEXTURE_MIN_FILTER, gl.LINEAR], [gl.TEXTURE_MAG_FILTER, gl.LINEAR]])
    gl.texParameteri(gl.TEXTURE_2D, name, value);
  const set = (name) => gl.getUniformLocation(program, name);
  const eyes = { one: [0, 0, 1, 1], "top-bottom": [0, 0, 1, 0.5], "left-right": [0, 0, 0.5, 1] }[take.eyes];
  let across = 0;
  let up = 0;
  let angle = 75;

  const draw = () => {
    const wide = stage.clientWidth * devicePixelRatio;
    const high = stage.clientHeight * devicePixelRatio;
    if (canvas.width !== wide || canvas.height !== high) Object.assign(canvas, { width: wide, height: high });
    gl.viewport(0, 0, wide, high);
    if (video.readyState >= 2) {
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGB, gl.RGB, gl.UNSIGNED_BYTE, video);
      if (canvas.parentNode !== stage) stage.replaceChildren(canvas);
    }
    gl.uniform4f(set("look"), across, up, Math.tan((angle * Math.PI) / 360), wide / Math.max(high, 1));
    gl.uniform4f(set("part"), ...eyes);
    gl.uniform1f(set("cover"), take.degrees / 360);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    stage.dataset.look = [across, up, angle].map((value) => value.toFixed(4)).join(" ");
  };
  const turn = (dx, dy) => {
    across += dx;
    up = Math.min(Math.max(up + dy, -Math.PI / 2), Math.PI / 2);
    draw();
  };
  let held = null;
  stage.addEventListener("pointerdown", (event) => { stage.setPointerCapture(event.pointerId); held = event; document.getElementById("hint").hidden = true; });
  stage.addEventListener("pointermove", (event) => {
    if (!held) return;
    const unit = (angle * Math.PI) / 180 / Math.max(stage.clientHeight, 1);
    turn((held.clientX - event.clientX) * unit, (event.clientY - held.clientY) * unit);
    held = event;
  });
  for (const ends of ["pointerup", "pointercancel"]) stage.addEventListener(ends, () => { held = null; });
  stage.addEventListener("wheel", (event) => {
    event.preventDefault();
    angle = Math.min(Math.max(angle * Math.exp(event.deltaY * 0.001), 25), 120);
    draw();
  }, { passive: false });
  stage.addEventListener("keydown", (event) => {
    const step = (5 * Math.PI) / 180;
    const turns = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] };
    if (event.key in turns) turn(...turns[event.key]);
    else if (event.key === " ") video.paused ? void video.play() : video.pause();
    else return;
    event.preventDefault();
  });
  const each = () => { draw(); requestAnimationFrame(each); };
  video.addEventListener("loadeddata", draw);
  addEventListener("resize", draw);
  if (!still) video.play().then(each, draw);
})();
