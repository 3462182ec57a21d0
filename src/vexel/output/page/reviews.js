// A review page: a film with notes, which is saved as a page with further notes.
const data = JSON.parse(document.getElementById('review').textContent)
const film = document.getElementById('film'), marks = document.getElementById('marks'), canvas = document.getElementById('curve')
const stage = document.getElementById('stage'), shape = document.getElementById('shape')
const field = document.getElementById('frame')
let frame = 0, mark = null, from = null

const clamp = (value, low, high) => Math.min(Math.max(value, low), high)
const share = (event) => {
  const box = stage.getBoundingClientRect()
  return [clamp((event.clientX - box.left) / box.width, 0, 1), clamp((event.clientY - box.top) / box.height, 0, 1)]
}

function go(to) {
  film.pause()
  frame = clamp(Math.round(to), 0, data.count - 1)
  // The middle of a frame's time: a seek to its edge may show the one before.
  film.currentTime = (frame + 0.5) / data.fps
  show()
}

function show() {
  if (document.activeElement !== field) field.value = frame + data.first
  document.getElementById('place').textContent = `of ${data.count} · ${(frame / data.fps).toFixed(2)} s`
  document.getElementById('play').textContent = film.paused ? 'Play' : 'Stop'
  drawCurve()
  drawMarks()
}

function drawCurve() {
  const ink = canvas.getContext('2d'), values = data.curve
  canvas.width = canvas.clientWidth * devicePixelRatio
  canvas.height = canvas.clientHeight * devicePixelRatio
  const [wide, high] = [canvas.width, canvas.height]
  if (values.length > 1) {
    const low = Math.min(...values), top = Math.max(...values)
    ink.strokeStyle = '#0b6266'
    ink.lineWidth = 2
    ink.beginPath()
    values.forEach((value, n) => {
      const y = high - 6 - ((value - low) / (top - low || 1)) * (high - 12)
      ink.lineTo(((n + 0.5) / data.count) * wide, y)
    })
    ink.stroke()
  }
  ink.fillStyle = '#b4540a'
  for (const note of data.notes) ink.fillRect((note.first / data.count) * wide, high - 6, Math.max(((note.last - note.first + 1) / data.count) * wide, 4), 6)
  ink.fillStyle = '#1c1e21'
  ink.fillRect(((frame + 0.5) / data.count) * wide - 1, 0, 2, high)
}

function drawMarks() {
  const shown = data.notes.filter((note) => note.mark && note.first <= frame && frame <= note.last).map((note) => note.mark)
  if (mark) shown.push(mark)
  const box = stage.getBoundingClientRect(), name = 'http://www.w3.org/2000/svg'
  marks.setAttribute('viewBox', `0 0 ${box.width || 1} ${box.height || 1}`)
  marks.replaceChildren(...shown.flatMap((one) => ['#fff', '#d1600a'].map((stroke, n) => {
    const [x, y, tx, ty] = [one.x * box.width, one.y * box.height, one.to_x * box.width, one.to_y * box.height]
    const kind = { dot: 'circle', box: 'rect', arrow: 'path' }[one.shape]
    const element = document.createElementNS(name, kind)
    const values = {
      dot: { cx: x, cy: y, r: 9 },
      box: { x: Math.min(x, tx), y: Math.min(y, ty), width: Math.abs(tx - x), height: Math.abs(ty - y) },
      arrow: { d: arrow(x, y, tx, ty) },
    }[one.shape]
    for (const [key, value] of Object.entries({ ...values, fill: 'none', stroke, 'stroke-width': n ? 2.25 : 4.5 })) element.setAttribute(key, value)
    return element
  })))
}

function arrow(x, y, tx, ty) {
  const turn = Math.atan2(ty - y, tx - x)
  const wing = (by) => `${tx - 13 * Math.cos(turn + by)} ${ty - 13 * Math.sin(turn + by)}`
  return `M${x} ${y}L${tx} ${ty}M${wing(0.5)}L${tx} ${ty}L${wing(-0.5)}`
}

function list() {
  data.notes.sort((one, other) => one.first - other.first)
  document.getElementById('notes').replaceChildren(...data.notes.map((note) => {
    const item = document.createElement('li'), text = document.createElement('p'), at = document.createElement('button')
    const about = document.createElement('span'), label = document.createElement('label'), box = document.createElement('input')
    item.className = note.is_open ? '' : 'done'
    text.textContent = note.text
    at.textContent = note.first === note.last ? `frame ${note.first + data.first}` : `frames ${note.first + data.first} to ${note.last + data.first}`
    at.onclick = () => go(note.first)
    about.className = 'quiet'
    about.textContent = ` ${[note.author, note.created.slice(0, 10)].filter(Boolean).join(', ')} `
    box.type = 'checkbox'
    box.checked = !note.is_open
    box.onchange = () => {
      note.is_open = !box.checked
      note.changed = new Date().toISOString()
      list()
    }
    label.append(box, ' done')
    item.append(text, at, about, label)
    return item
  }))
  show()
}

document.getElementById('findings').replaceChildren(...data.findings.map((finding) => {
  const item = document.createElement('li')
  item.textContent = finding
  return item
}))
document.getElementById('back').onclick = () => go(frame - 1)
document.getElementById('next').onclick = () => go(frame + 1)
document.getElementById('play').onclick = () => (film.paused ? film.play() : film.pause())
film.onpause = film.onplay = show
film.loop = true
field.onchange = () => go(Number(field.value) - data.first)
canvas.onclick = (event) => go(Math.floor(((event.clientX - canvas.getBoundingClientRect().left) / canvas.clientWidth) * data.count))
addEventListener('keydown', (event) => {
  if (event.target.closest('input, textarea, select')) return
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (by) go(frame + by * (event.shiftKey ? 10 : 1))
})
setInterval(() => {
  if (film.paused) return
  frame = clamp(Math.floor(film.currentTime * data.fps), 0, data.count - 1)
  show()
}, 40)
shape.onchange = () => {
  mark = null
  stage.classList.toggle('drawing', shape.value !== '')
  show()
}
marks.onpointerdown = (event) => {
  from = share(event)
  marks.setPointerCapture(event.pointerId)
}
marks.onpointermove = marks.onpointerup = (event) => {
  if (!from) return
  const [x, y] = from, [tx, ty] = share(event)
  mark = { shape: shape.value, x, y, to_x: tx, to_y: ty }
  if (event.type === 'pointerup') from = null
  drawMarks()
}
document.getElementById('add').onsubmit = (event) => {
  event.preventDefault()
  const text = document.getElementById('text'), author = document.getElementById('author').value.trim()
  if (!text.value.trim()) return
  const bytes = crypto.getRandomValues(new Uint8Array(12))
  const uid = [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')
  const created = new Date().toISOString()
  data.notes.push({ uid, first: frame, last: frame, mark, text: text.value.trim(), author, created, is_open: true, changed: created })
  text.value = shape.value = ''
  shape.onchange()
  list()
  document.getElementById('said').textContent = 'The note is in this page once the page is saved.'
}
document.getElementById('save').onclick = () => {
  document.getElementById('review').textContent = JSON.stringify(data).replaceAll('<', '\\u003c')
  for (const id of ['notes', 'findings', 'marks']) document.getElementById(id).replaceChildren()
  const page = new Blob([`<!doctype html>\n${document.documentElement.outerHTML}`], { type: 'text/html' })
  const link = document.createElement('a')
  link.href = URL.createObjectURL(page)
  link.download = data.file
  link.click()
  list()
  document.getElementById('said').textContent = 'Saved. Send the page back: its notes are imported in Review.'
}
film.addEventListener('loadeddata', () => go(0), { once: true })
list()
