// The colours of the theme for a canvas, resolved from the style sheet.
export const inks = (element, names) => {
  const probe = element.appendChild(document.createElement("i"));
  const tones = {};
  for (const name of names) {
    probe.style.color = `var(--${name})`;
    tones[name] = getComputedStyle(probe).color;
  }
  probe.remove();
  return tones;
};
