// The colours of the theme as a canvas needs them: what the style sheet says of each, resolved.
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
