// Says why the page does not start, where it does not: what is amiss would else be seen by nobody.
function sayWhy(reason) {
  if ('started' in document.documentElement.dataset) return
  const place = document.querySelector('#app')
  if (!place) return
  const said = document.createElement('p')
  said.setAttribute('role', 'alert')
  said.textContent =
    'Patient Key could not start in this browser: ' +
    reason +
    ' Load the page again; if these words stay, try a newer browser. What you did before is kept.'
  place.replaceChildren(said)
}
addEventListener(
  'error',
  (event) => {
    const { src, href } = event.target
    sayWhy(event.message ? event.message + '.' : (src || href || 'a part of it') + ' could not be loaded.')
  },
  true
)
addEventListener('unhandledrejection', (event) => sayWhy(String(event.reason?.message ?? event.reason) + '.'))
