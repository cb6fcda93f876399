// What is too wide, too small to press or under another label, as sentences.
([small, LEAST, INLINE]) => {
  const wide = document.documentElement.clientWidth, wrong = []
  const name = (one) => (one.getAttribute('aria-label') || one.textContent || one.id || one.className.toString()).trim().slice(0, 40)
  const seen = (one) => one.checkVisibility({ opacityProperty: true, visibilityProperty: true }) && !one.closest('.unseen, .ant-select-dropdown, .paper') && !one.matches('.ant-select input')
  const scroller = (one) => { for (let up = one.parentElement; up; up = up.parentElement) { const how = getComputedStyle(up).overflowX; if (how === 'auto' || how === 'scroll' || how === 'hidden') return up } return null }
  if (document.documentElement.scrollWidth > wide + 1) wrong.push(`the page is ${document.documentElement.scrollWidth} px wide`)
  const root = document.querySelector('dialog[open]') ?? document
  for (const one of root.querySelectorAll('main *, dialog *, nav *')) {
    const box = one.getBoundingClientRect()
    if (!box.width || !seen(one)) continue
    if (box.right > wide + 1 && !scroller(one) && !one.closest('svg')) wrong.push(`${one.tagName} “${name(one)}” ends at ${Math.round(box.right)}`)
  }
  const pressed = !small ? [] : [...root.querySelectorAll('main, nav, dialog')].flatMap((one) => [...one.querySelectorAll('button, a[href], select, input, textarea, summary')]).filter(seen)
  for (const one of new Set(pressed)) {
    const box = one.getBoundingClientRect()
    if (!box.width || one.closest('svg')) continue
    const label = one.matches('input[type=checkbox], input[type=radio], input[type=file]') ? one.closest('label') : null
    const size = label ? label.getBoundingClientRect() : box
    const inline = one.closest('p, td, th, li, dd, small, label, .sentence') && !one.matches('.ant-btn, select, input, textarea')
    const least = inline ? INLINE : LEAST
    if (Math.min(size.height, one.matches('button, a') && !inline ? size.width : size.height) < least - 0.5) wrong.push(`${one.tagName} “${name(one)}” is ${Math.round(size.width)} × ${Math.round(size.height)}`)
  }
  const cut = (one) => { // what of it is not scrolled away
    let { left, right, top, bottom } = one.getBoundingClientRect()
    for (let up = one.parentElement; up && up !== root; up = up.parentElement) {
      const how = getComputedStyle(up)
      if (!/auto|scroll|hidden/.test(how.overflowX + how.overflowY)) continue
      const box = up.getBoundingClientRect()
      left = Math.max(left, box.left), right = Math.min(right, box.right), top = Math.max(top, box.top), bottom = Math.min(bottom, box.bottom)
    }
    return { left, right, top, bottom }
  }
  for (const one of [...root.querySelectorAll('main nav [aria-current]')].filter(seen)) {
    const shown = cut(one)
    if (shown.right - shown.left < one.getBoundingClientRect().width - 1) wrong.push(`“${name(one)}” is open and out of sight`)
  }
  const labels = [...root.querySelectorAll('main label, main button, main h2, main th, main svg text, dialog label, dialog button')].filter(seen).map((one) => [one, cut(one)]).filter(([, box]) => box.right > box.left && box.bottom > box.top).map(([one, box]) => [one, { ...box, width: box.right - box.left, height: box.bottom - box.top }])
  for (let a = 0; a < labels.length; a += 1) for (let b = a + 1; b < labels.length; b += 1) {
    const [one, p] = labels[a], [two, q] = labels[b]
    if (one.contains(two) || two.contains(one) || one.closest('.ant-select') || two.closest('.ant-select')) continue
    const x = Math.min(p.right, q.right) - Math.max(p.left, q.left), y = Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top)
    if (x > 3 && y > 4 && x * y > 0.25 * Math.min(p.width * p.height, q.width * q.height)) wrong.push(`“${name(one)}” lies on “${name(two)}”`)
  }
  return wrong
}
