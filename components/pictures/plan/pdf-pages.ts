import { blobOf } from "@/components/kit/smaller-picture";

/** A plan is kept so large, px along its longer side: small print on a site plan stays readable. */
export const PLAN_PX = 3200;

export type PdfPages = {
  count: number;
  /** A page as a picture, counted from 1, so large as a plan is kept where nothing else is said. */
  picture: (page: number, longerPx?: number) => Promise<Blob>;
  close: () => void;
};

/** Opens a PDF in the browser, to have a page of it as a picture. Throws in words where it is none. */
export async function openPdf(file: File): Promise<PdfPages> {
  const { getDocument, GlobalWorkerOptions } = await import("pdfjs-dist");
  const worker = new Worker(new URL("../../../workers/pdf.worker.ts", import.meta.url), { type: "module" });
  GlobalWorkerOptions.workerPort = worker;
  const task = getDocument({ data: await file.arrayBuffer() });
  const close = (): void => {
    void task.destroy().finally(() => worker.terminate());
  };
  try {
    const document = await task.promise;
    return {
      count: document.numPages,
      close,
      picture: async (number, longerPx = PLAN_PX) => {
        const page = await document.getPage(number);
        const { width, height } = page.getViewport({ scale: 1 });
        const viewport = page.getViewport({ scale: longerPx / Math.max(width, height) });
        const canvas = window.document.createElement("canvas");
        [canvas.width, canvas.height] = [Math.round(viewport.width), Math.round(viewport.height)];
        await page.render({ canvas, viewport }).promise;
        return blobOf(canvas);
      },
    };
  } catch (error) {
    close();
    const locked = error instanceof Error && error.name === "PasswordException";
    throw new Error(
      `${file.name} could not be opened as a PDF${locked ? ": it asks for a password. Save it without one" : ""}. Nothing was kept.`,
    );
  }
}
