// The mask about the frame of the shot camera: what the film does not see is dimmed.
const NAME = "frame-mask";

/** Lays the mask over a box, for a gate in shares of its size; takes it away without one. */
export function mask(box: HTMLElement, gate: { wide: number; high: number } | null, ink: string) {
  let laid = box.querySelector<HTMLElement>(`[data-testid="${NAME}"]`);
  if (!gate) return laid?.remove();
  if (!laid) {
    laid = document.createElement("div");
    laid.dataset.testid = NAME;
    Object.assign(laid.style, { position: "absolute", pointerEvents: "none", boxSizing: "border-box" });
    box.prepend(laid); // below what stands over the picture: bars, letters, names
  }
  Object.assign(laid.style, {
    left: `${50 * (1 - gate.wide)}%`,
    right: `${50 * (1 - gate.wide)}%`,
    top: `${50 * (1 - gate.high)}%`,
    bottom: `${50 * (1 - gate.high)}%`,
    outline: `4000px solid ${ink}99`,
    border: `1px solid ${ink}`,
  });
}
