// Marks the first and the last of each kind of text that is not known yet: the same element, colour,
// size and weight on the same grounds, its own and what lies under its middle. Returns the new kinds.
(known) => {
  const before = new Set(known), grounds = new Map(), alike = new Map();
  const ground = (e) => {
    if (!grounds.has(e)) {
      const s = getComputedStyle(e), filled = e instanceof SVGGeometryElement ? s.fill : 'none';
      const clear = s.backgroundColor === 'rgba(0, 0, 0, 0)' && s.backgroundImage === 'none' && s.opacity === '1';
      grounds.set(e, (clear ? '' : `${s.backgroundColor} ${s.backgroundImage} ${s.opacity} `) + (filled === 'none' ? '' : filled));
    }
    return grounds.get(e);
  };
  const under = (e) => {
    const box = e.getBoundingClientRect(), chain = new Set();
    for (let a = e; a; a = a.parentElement) chain.add(a);
    for (const at of document.elementsFromPoint((box.left + box.right) / 2, (box.top + box.bottom) / 2)) chain.add(at);
    return [...chain].map(ground).filter(Boolean).join(' / ');
  };
  for (const e of document.body.querySelectorAll('*')) {
    e.removeAttribute('data-looked-at');
    if (!e.value && ![...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim())) continue;
    const s = getComputedStyle(e);
    const kind = [e.tagName, s.color, s.fill, s.fontSize, s.fontWeight, under(e)].join(' | ');
    if (!before.has(kind)) alike.set(kind, [...(alike.get(kind) ?? []), e]);
  }
  for (const some of alike.values()) for (const e of [some[0], some.at(-1)]) e.setAttribute('data-looked-at', '');
  return [...alike.keys()];
}
