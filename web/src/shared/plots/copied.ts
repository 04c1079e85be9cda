/** A plot's values as they are copied: a head and its rows. */
export interface PlotTable {
  head: string[];
  rows: (string | number)[][];
}

const cell = (value: string | number) => {
  const text = typeof value === "number" ? String(Number(value.toPrecision(7))) : value;
  return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** As RFC 4180 has it. */
export function csvText({ head, rows }: PlotTable): string {
  return [head, ...rows].map((row) => row.map(cell).join(",")).join("\r\n");
}

/** A drawn plot as a file of its own: its size, its ground, and every color and font as it stands on the screen. */
export function svgText(drawn: SVGSVGElement): string {
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const theirs = [drawn, ...drawn.querySelectorAll("*")];
  [copy, ...copy.querySelectorAll("*")].forEach((element, at) => {
    const style = getComputedStyle(theirs[at] as Element);
    for (const name of ["fill", "stroke"]) {
      const value = style.getPropertyValue(name);
      if (value) element.setAttribute(name, value);
    }
    if (element.tagName === "text") {
      for (const name of ["font-family", "font-size", "font-weight"])
        element.setAttribute(name, style.getPropertyValue(name).replaceAll('"', "'"));
    }
    for (const name of ["class", "tabindex", "role", "aria-valuenow", "aria-valuemin", "aria-valuemax"])
      element.removeAttribute(name);
  });
  const { width, height } = drawn.getBoundingClientRect();
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(Math.round(width)));
  copy.setAttribute("height", String(Math.round(height)));
  const ground = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  const box = drawn.viewBox.baseVal;
  for (const [name, value] of Object.entries({ x: box.x, y: box.y, width: box.width, height: box.height }))
    ground.setAttribute(name, String(value));
  ground.setAttribute("fill", getComputedStyle(drawn.parentElement ?? drawn).backgroundColor);
  copy.prepend(ground);
  return new XMLSerializer().serializeToString(copy);
}

/** Onto the clipboard; where a browser keeps it shut (a shop's plain http), as a file. */
export async function copy(text: string, name: string, type: string): Promise<string> {
  if (navigator.clipboard) {
    await navigator.clipboard.writeText(text);
    return "copied";
  }
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
  return "saved as a file";
}
