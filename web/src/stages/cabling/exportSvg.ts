const KEPT = ["fill", "stroke", "stroke-width", "stroke-dasharray", "opacity", "font-family", "font-size", "font-weight", "text-anchor"];

/** Save a drawing as a file of its own: what the style sheet says is written into each element. */
export function exportSvg(drawing: SVGSVGElement, name: string): void {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  const from = [drawing, ...drawing.querySelectorAll("*")];
  const to = [copy, ...copy.querySelectorAll("*")];
  for (const [k, element] of from.entries()) {
    const style = getComputedStyle(element);
    for (const key of KEPT) to[k]?.setAttribute(key, style.getPropertyValue(key));
    to[k]?.removeAttribute("class");
  }
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([new XMLSerializer().serializeToString(copy)], { type: "image/svg+xml" }));
  link.download = `${name}.svg`;
  link.click();
  URL.revokeObjectURL(link.href);
}
