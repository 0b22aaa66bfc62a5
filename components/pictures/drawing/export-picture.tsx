"use client";
import { flushSync } from "react-dom";
import { createRoot } from "react-dom/client";
import { toast } from "sonner";
import type { SiteFile } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { fileStem, saveBlob, saveText } from "@/components/kit/save-file";
import { WaterworksPicture } from "./drawing";
import type { Places, Shapes } from "./shapes";

const PAINTED = ["fill", "stroke"] as const;
const PNG_SCALE = 2;

export async function saveSvg(site: SiteFile, units: UnitSystem, drawn: Shapes, places: Places): Promise<void> {
  saveText(
    await standaloneSvg(<WaterworksPicture site={site} units={units} ready={drawn} places={places} />),
    `${fileStem(site)}-waterworks.svg`,
    "image/svg+xml",
  );
}

export async function savePng(site: SiteFile, units: UnitSystem, drawn: Shapes, places: Places): Promise<void> {
  const text = await standaloneSvg(<WaterworksPicture site={site} units={units} ready={drawn} places={places} />);
  const image = new Image();
  image.onload = () => {
    const canvas = document.createElement("canvas");
    canvas.width = image.naturalWidth * PNG_SCALE;
    canvas.height = image.naturalHeight * PNG_SCALE;
    canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
    canvas.toBlob((blob) => {
      if (blob) saveBlob(blob, `${fileStem(site)}-waterworks.png`);
    }, "image/png");
  };
  image.onerror = () => toast.error("The picture could not be drawn. Save it as SVG instead.");
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
}

/** A drawn picture in the day theme with its colours and its font inside, so that it looks the same wherever it is opened. */
export async function standaloneSvg(picture: React.ReactElement): Promise<string> {
  const holder = document.createElement("div");
  holder.dataset["theme"] = "day";
  holder.style.cssText = "position:absolute;left:-99999px;top:0;width:1600px";
  document.body.append(holder);
  const root = createRoot(holder);
  try {
    flushSync(() => root.render(picture));
    const svg = holder.querySelector("svg") as SVGSVGElement;
    const themed = getComputedStyle(holder);
    const probe = document.createElement("span");
    holder.append(probe);
    const resolved = new Map<string, string>();
    const colour = (value: string): string => {
      const known = resolved.get(value);
      if (known) return known;
      probe.style.color = value;
      const { color } = getComputedStyle(probe);
      const shown = toHex(color);
      resolved.set(value, shown);
      return shown;
    };
    for (const el of svg.querySelectorAll<SVGElement>("*"))
      for (const key of PAINTED) {
        const value = el.getAttribute(key);
        if (value && /var\(|color-mix/.test(value)) el.setAttribute(key, colour(value));
      }
    const own = `0 0 ${svg.getAttribute("width") ?? 800} ${svg.getAttribute("height") ?? 600}`;
    const [x, y, width, height] = (svg.getAttribute("viewBox") ?? own).split(" ").map(Number) as [
      number,
      number,
      number,
      number,
    ];
    svg.setAttribute("xmlns", "http://www.w3.org/2000/svg");
    svg.setAttribute("width", String(width));
    svg.setAttribute("height", String(height));
    svg.setAttribute("font-family", "Barlow Semi Condensed, Arial Narrow, sans-serif");
    svg.removeAttribute("style");
    svg.removeAttribute("class");
    const paper = colour(themed.getPropertyValue("--paper") || "#f7f5ee");
    return `<?xml version="1.0" encoding="UTF-8"?>\n${svg.outerHTML.replace(/(<svg[^>]*>)/, `$1<style>${await fontFaces()}</style><rect x="${x}" y="${y}" width="${width}" height="${height}" fill="${paper}"/>`)}`;
  } finally {
    root.unmount();
    holder.remove();
  }
}

/** Any colour the browser can show, as #rrggbb: other programs do not read the newer notations. */
function toHex(color: string): string {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 1;
  const context = canvas.getContext("2d");
  if (!context || color === "") return "#000000";
  context.fillStyle = color;
  context.fillRect(0, 0, 1, 1);
  const [r, g, b, a] = context.getImageData(0, 0, 1, 1).data as unknown as [number, number, number, number];
  return a === 0 ? "none" : `#${[r, g, b].map((v) => v.toString(16).padStart(2, "0")).join("")}`;
}

/** The application's own faces, with their data inside. */
async function fontFaces(): Promise<string> {
  const faces = [...document.styleSheets].flatMap((sheet) => {
    try {
      return [...sheet.cssRules]
        .filter((r): r is CSSFontFaceRule => r instanceof CSSFontFaceRule)
        .map((r) => ({ text: r.cssText, base: sheet.href ?? document.baseURI }));
    } catch {
      return [];
    }
  });
  const inlined = await Promise.all(
    faces
      .filter((f) => f.text.includes("Barlow"))
      .map(async ({ text, base }) => {
        const url = /url\("?([^")]+\.woff2)"?\)/.exec(text)?.[1];
        if (!url) return "";
        const bytes = new Uint8Array(await (await fetch(new URL(url, base))).arrayBuffer());
        let binary = "";
        for (const b of bytes) binary += String.fromCharCode(b);
        const weight = /font-weight:\s*(\d+)/.exec(text)?.[1] ?? "400";
        return `@font-face{font-family:"Barlow Semi Condensed";font-weight:${weight};src:url(data:font/woff2;base64,${btoa(binary)}) format("woff2")}`;
      }),
  );
  return inlined.join("");
}
