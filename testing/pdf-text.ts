import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";

/** What a PDF says, page by page: each line of it as it stands on the paper, cells with a space between. */
export async function pdfText(content: Uint8Array): Promise<string[]> {
  const task = getDocument({ data: new Uint8Array(content), useSystemFonts: false });
  const document = await task.promise;
  const pages: string[] = [];
  for (let n = 1; n <= document.numPages; n++) {
    const { items } = await (await document.getPage(n)).getTextContent();
    const lines = new Map<number, { x: number; text: string }[]>();
    for (const item of items) {
      if (!("str" in item) || item.str.trim() === "") continue;
      const [x, y] = [item.transform[4] as number, Math.round((item.transform[5] as number) / 2)];
      lines.set(y, [...(lines.get(y) ?? []), { x, text: item.str }]);
    }
    pages.push(
      [...lines]
        .sort(([a], [b]) => b - a)
        .map(([, cells]) =>
          cells
            .sort((a, b) => a.x - b.x)
            .map((c) => c.text)
            .join(" ")
            .replace(/\s+/g, " "),
        )
        .join("\n"),
    );
  }
  await task.destroy();
  return pages;
}
