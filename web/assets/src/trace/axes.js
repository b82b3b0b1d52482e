// The scales of a drawing: kilovolts upwards, milliseconds below.

export const LEFT = 46;
export const FOOT = 26;
export const HEAD = 16;

// CENTI is kilovolts in a unit of the server's columns.
export const CENTI = 0.01;

// y is where a value of the columns stands in an area.
export const y = (area, centi) => area.y + area.h * (1 - (centi - area.low) / (area.high - area.low));

// step125 is 1, 2 or 5 times a power of ten, so that a span has at most so many steps.
const step125 = (span, about) => {
  const step = 10 ** Math.floor(Math.log10(span / about));
  for (const k of [1, 2, 5, 10]) if (span / (k * step) <= about) return k * step;
  return 10 * step;
};

// kilovolts draws the lines across and their figures.
export const kilovolts = (pen, colour, area) => {
  const step = step125((area.high - area.low) * CENTI, 6);
  pen.lineWidth = 1;
  pen.textAlign = "right";
  pen.fillStyle = colour.stone;
  pen.strokeStyle = colour.line;
  for (let v = Math.ceil((area.low * CENTI) / step) * step; v <= area.high * CENTI; v += step) {
    const at = y(area, v * 100);
    pen.beginPath();
    pen.moveTo(area.x, at);
    pen.lineTo(area.x + area.w, at);
    pen.stroke();
    pen.fillText(String(Math.round(v * 10) / 10), area.x - 6, at + 4);
  }
  pen.fillText("kV", area.x - 6, area.y - 4);
};

// milliseconds draws the scale below; view is in seconds (unit 1000) or milliseconds (unit 1).
export const milliseconds = (pen, colour, area, view, unit) => {
  const from = view.from * unit;
  const to = view.to * unit;
  const step = step125(to - from, Math.max(3, area.w / 90));
  pen.textAlign = "center";
  pen.fillStyle = colour.stone;
  pen.strokeStyle = colour.edge;
  for (let t = Math.ceil(from / step) * step; t <= to; t += step) {
    const x = area.x + (area.w * (t - from)) / (to - from);
    pen.beginPath();
    pen.moveTo(x, area.y + area.h);
    pen.lineTo(x, area.y + area.h + 5);
    pen.stroke();
    pen.fillText(`${Math.round(t * 1000) / 1000}`, x, area.y + area.h + 18);
  }
  pen.textAlign = "right";
  pen.fillText("ms", area.x - 6, area.y + area.h + 18);
};

// reach is the least and the greatest value of some windows, with some room.
export const reach = (windows) => {
  let low = 0;
  let high = 100;
  for (const w of windows) {
    for (let i = 0; i < w.low.length; i++) {
      if (w.low[i] < low) low = w.low[i];
      if (w.high[i] > high) high = w.high[i];
    }
  }
  return { low: low - 0.03 * (high - low), high: high + 0.08 * (high - low) };
};
