// What is wrong with the look of a page: text under 11 px, cut off, overlapping; a bench that scrolls.
() => {
  const wrong = [];
  const seen = (e) => e.offsetParent !== null || e.closest('svg');
  for (const e of document.querySelectorAll('p, span, a, b, td, th, dd, dt, li, label, button, h1, h2, text')) {
    if (!seen(e) || !e.textContent.trim() || e.closest('.sr-only, [hidden], dialog, .skip')) continue;
    const own = [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim());
    if (!own) continue;
    const box = e.getBoundingClientRect();
    if (!box.width) continue;
    if (parseFloat(getComputedStyle(e).fontSize) < 11) wrong.push(`small: ${e.textContent.trim().slice(0, 40)}`);
    if (!e.closest('.scroll') && (box.right > innerWidth + 1 || box.left < -1))
      wrong.push(`cut: ${e.textContent.trim().slice(0, 40)}`);
  }
  const words = [...document.querySelectorAll('main svg text')].filter((t) => t.getBoundingClientRect().width);
  for (let i = 0; i < words.length; i++) for (let j = i + 1; j < words.length; j++) {
    const a = words[i].getBoundingClientRect(), b = words[j].getBoundingClientRect();
    const w = Math.min(a.right, b.right) - Math.max(a.left, b.left);
    const h = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
    if (w > 2 && h > 4) wrong.push(`overlap: ${words[i].textContent.trim()} / ${words[j].textContent.trim()}`);
  }
  const main = document.querySelector('.page main');
  if (main && main.scrollHeight > main.clientHeight + 1) wrong.push(`scrolls: ${main.scrollHeight} > ${main.clientHeight}`);
  return wrong;
}
