/** How many pixels a unit of the drawing has in a picture. */
const PIXELS = 2;

/** The whole drawing as a standalone document with the current colors. */
export function drawingAsSvg(drawn: SVGSVGElement, size: { width: number; height: number }): string {
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const tokens = getComputedStyle(drawn);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("viewBox", `0 0 ${size.width} ${size.height}`);
  copy.setAttribute("width", String(size.width));
  copy.setAttribute("height", String(size.height));
  copy.removeAttribute("class");
  // Ways to pages mean nothing outside the application.
  for (const link of copy.querySelectorAll("a")) link.replaceWith(...link.childNodes);
  for (const element of copy.querySelectorAll("[data-only-on-screen]")) element.remove();
  const text = new XMLSerializer().serializeToString(copy);
  const coloured = text.replaceAll(/var\((--[a-z0-9-]+)\)/g, (_, name) =>
    tokens.getPropertyValue(name).trim().replaceAll('"', "'"),
  );
  const ground = tokens.getPropertyValue("--ground").trim();
  const opened = coloured.indexOf(">", coloured.indexOf("<svg")) + 1;
  return `${coloured.slice(0, opened)}<rect width="100%" height="100%" fill="${ground}"/>${coloured.slice(opened)}`;
}

/** The same as a picture; rejected where the browser cannot draw it. */
export async function drawingAsPng(svg: string, size: { width: number; height: number }): Promise<Blob> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(size.width * PIXELS);
  canvas.height = Math.round(size.height * PIXELS);
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) => {
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error("the picture is too large"))));
  });
}
