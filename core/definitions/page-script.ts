/** What runs in the page that stands alone: moving about in the diagram, and finding in it and in the dictionary. */
export const PAGE_SCRIPT = `
const picture = document.getElementById('picture')
const svg = picture.querySelector('svg')
const size = { width: svg.width.baseVal.value, height: svg.height.baseVal.value }
const origin = { x: svg.viewBox.baseVal.x, y: svg.viewBox.baseVal.y }
let view = { x: 0, y: 0, scale: 1 }
let drag

function show(next) {
  view = next
  svg.style.transform = 'translate(' + view.x + 'px,' + view.y + 'px) scale(' + view.scale + ')'
}
function showAll() {
  const { clientWidth, clientHeight } = picture
  const scale = Math.min(clientWidth / size.width, clientHeight / size.height, 1)
  show({ x: (clientWidth - size.width * scale) / 2, y: (clientHeight - size.height * scale) / 2, scale })
}
/** Comes nearer, or goes away, with what is at a point staying there. */
function scaleAt(x, y, factor) {
  const scale = Math.min(4, Math.max(0.02, view.scale * factor))
  const change = scale / view.scale
  show({ x: x - (x - view.x) * change, y: y - (y - view.y) * change, scale })
}
function open(id, isPictured) {
  document.querySelectorAll('.here, .found').forEach((each) => each.classList.remove('here', 'found'))
  const section = [...document.querySelectorAll('section[data-of]')].find((each) => each.dataset.of === id)
  const table = [...svg.querySelectorAll('[data-table]')].find((each) => each.dataset.table === id)
  section?.classList.add('here')
  table?.classList.add('found')
  if (!isPictured && table) {
    const { x, y, width, height } = table.getBBox()
    const scale = Math.max(view.scale, 0.8)
    const { clientWidth, clientHeight } = picture
    show({
      x: clientWidth / 2 - (x - origin.x + width / 2) * scale,
      y: clientHeight / 2 - (y - origin.y + height / 2) * scale,
      scale
    })
  }
  if (isPictured) section?.scrollIntoView()
}

picture.addEventListener('wheel', (event) => {
  event.preventDefault()
  const { left, top } = picture.getBoundingClientRect()
  scaleAt(event.clientX - left, event.clientY - top, Math.exp(-event.deltaY / 500))
}, { passive: false })
picture.addEventListener('pointerdown', (event) => {
  drag = { x: event.clientX - view.x, y: event.clientY - view.y, far: false, on: event.target.closest('[data-table]') }
})
picture.addEventListener('pointermove', (event) => {
  if (!drag) return
  const [x, y] = [event.clientX - drag.x, event.clientY - drag.y]
  drag.far ||= Math.hypot(x - view.x, y - view.y) > 3
  if (drag.far) show({ ...view, x, y })
})
window.addEventListener('pointerup', () => {
  if (drag && !drag.far && drag.on) open(drag.on.dataset.table, true)
  drag = undefined
})
picture.addEventListener('keydown', (event) => {
  const step = { ArrowLeft: [60, 0], ArrowRight: [-60, 0], ArrowUp: [0, 60], ArrowDown: [0, -60] }[event.key]
  const middle = [picture.clientWidth / 2, picture.clientHeight / 2]
  if (step) show({ ...view, x: view.x + step[0], y: view.y + step[1] })
  else if (event.key === '+') scaleAt(...middle, 1.25)
  else if (event.key === '-') scaleAt(...middle, 0.8)
  else if (event.key === '0') showAll()
  else return
  event.preventDefault()
})
document.querySelectorAll('section[data-of] h2').forEach((head) => {
  head.tabIndex = 0
  head.style.cursor = 'pointer'
  const go = () => open(head.parentElement.dataset.of, false)
  head.addEventListener('click', go)
  head.addEventListener('keydown', (event) => { if (event.key === 'Enter') go() })
})
const search = document.querySelector('input')
search.addEventListener('input', () => {
  const words = search.value.trim().toLowerCase()
  document.querySelectorAll('section[data-of]').forEach((section) => {
    section.hidden = !section.dataset.words.includes(words)
  })
})
search.addEventListener('keydown', (event) => {
  if (event.key !== 'Enter') return
  const first = document.querySelector('section[data-of]:not([hidden])')
  if (first) { open(first.dataset.of, false); first.scrollIntoView() }
})
document.getElementById('all').addEventListener('click', showAll)
window.addEventListener('resize', showAll)
showAll()
`.trim()
