// Canvases in CSS pixels, sharp on any screen; and one drawing per animation frame however often it is asked for.

/** Size a canvas to its box and answer a context whose unit is the CSS pixel. */
export function fitted(canvas, width, height) {
  const ratio = globalThis.devicePixelRatio ?? 1;
  const w = Math.max(1, Math.round(width * ratio));
  const h = Math.max(1, Math.round(height * ratio));
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
    canvas.style.width = `${width}px`;
    canvas.style.height = `${height}px`;
  }
  const context = canvas.getContext("2d");
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.clearRect(0, 0, width, height);
  return context;
}

/** Ask as often as you like, it is drawn once a frame. */
export function oncePerFrame(draw) {
  let asked = 0;
  const request = () => {
    if (!asked) {
      asked = requestAnimationFrame(() => {
        asked = 0;
        draw();
      });
    }
  };
  request.cancel = () => cancelAnimationFrame(asked);
  return request;
}
