// Rulers along the board, and measuring between two places.

const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];

export function drawRulers(root, view, grain, inch) {
  const unit = inch ? 25.4 : 1;
  for (const way of ["x", "y"]) {
    const canvas = root.querySelector(`#ruler-${way}`), box = canvas.getBoundingClientRect(), ratio = window.devicePixelRatio || 1;
    const long = way === "x" ? box.width : box.height, wide = way === "x" ? box.height : box.width;
    canvas.width = box.width * ratio;
    canvas.height = box.height * ratio;
    const pen = canvas.getContext("2d");
    pen.scale(ratio, ratio);
    pen.fillStyle = "#fffdf8";
    pen.fillRect(0, 0, box.width, box.height);
    pen.strokeStyle = pen.fillStyle = "#5d6468";
    pen.font = "10px 'Source Sans 3', sans-serif";
    const step = (STEPS.find((one) => (one * unit) / grain > 56) ?? 200) * unit, begin = way === "x" ? view.x : view.y;
    pen.beginPath();
    for (let nth = Math.floor(begin / (step / 5)); nth * (step / 5) < begin + long * grain; nth += 1) {
      const at = Math.round((nth * (step / 5) - begin) / grain) + 0.5, major = nth % 5 === 0;
      const from = major ? 3 : wide - 5;
      if (way === "x") pen.moveTo(at, from), pen.lineTo(at, wide);
      else pen.moveTo(from, at), pen.lineTo(wide, at);
      if (!major) continue;
      const text = String(Math.round((nth * step / 5 / unit) * 100) / 100);
      if (way === "x") pen.fillText(text, at + 3, 10);
      else {
        pen.save();
        pen.translate(10, at - 3);
        pen.rotate(-Math.PI / 2);
        pen.fillText(text, 0, 0);
        pen.restore();
      }
    }
    pen.stroke();
  }
}

// A measured way in words.
export function measured(from, to, inch) {
  const shown = (mm) => (inch ? (mm / 25.4).toFixed(3) : mm.toFixed(1));
  const dx = to.x - from.x, dy = to.y - from.y, angle = (Math.atan2(-dy, dx) * 180) / Math.PI;
  return `${shown(Math.hypot(dx, dy))} ${inch ? "in" : "mm"} · → ${shown(dx)} · ↓ ${shown(dy)} · ${angle.toFixed(1)}°`;
}
