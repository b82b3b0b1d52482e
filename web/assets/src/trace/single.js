import { milliseconds, y } from "./axes.js";
import { ink, stroke } from "./line.js";

// single draws one channel over time, with what was measured at each ignition event.
export const single = (pen, colour, area, own) => {
  const { from, to } = own.view;
  const x = (t) => area.x + (area.w * (t - from)) / (to - from);
  ink(pen, colour.fell, 1.3);
  stroke(pen, own.data, area, from, to, area.x, area.w);
  milliseconds(pen, colour, area, own.view, 1000);
  const shown = (own.data.events || []).filter((e) => e.at >= from && e.at <= to);
  pen.textAlign = "left";
  for (const e of shown.slice(0, 24)) {
    ink(pen, colour.loch, 1.5);
    const top = Math.max(area.y + 12, y(area, e.kv * 100));
    pen.fillText(`${e.cylinder || "no cylinder"}: ${e.least ? "at least " : ""}${e.kv.toFixed(1)} kV`, x(e.at) + 8, top + 4);
    if (shown.length > 4) continue;
    if (e.burn > 0) burn(pen, area, e, x, top, own.wide < 600);
    if (e.dwell > 0) dwell(pen, area, e, x);
  }
};

// burn marks the burn time of an event and says its figures.
const burn = (pen, area, e, x, top, narrow) => {
  const at = y(area, e.line * 100) - 14;
  const end = x(e.at + e.burn / 1000);
  pen.beginPath();
  for (const edge of [x(e.at), end]) {
    pen.moveTo(edge, at - 5);
    pen.lineTo(edge, at + 5);
  }
  pen.moveTo(x(e.at), at);
  pen.lineTo(end, at);
  pen.stroke();
  const told = [`burn ${e.burn.toFixed(2)} ms at ${e.line.toFixed(2)} kV`, `${e.slope.toFixed(2)} kV/ms`];
  if (e.rings) told.push(`then ${e.rings} half waves`);
  const lines = narrow ? told : [told.join(", ")];
  lines.forEach((line, i) => pen.fillText(line, x(e.at) + 8, top + 22 + 18 * i));
};

// dwell marks where the coil was switched on.
const dwell = (pen, area, e, x) => {
  const on = x(e.at - e.dwell / 1000);
  pen.beginPath();
  pen.moveTo(on, y(area, 0) + 4);
  pen.lineTo(on, y(area, 0) + 16);
  pen.stroke();
  if (on > area.x - 40) pen.fillText(`coil on, ${e.dwell.toFixed(1)} ms`, Math.max(area.x + 4, on + 4), y(area, 0) - 8);
};
