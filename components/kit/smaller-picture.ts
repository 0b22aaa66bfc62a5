const LARGEST_PX = 1600;
const QUALITY = 0.82;

/** A picture no larger than it need be, as JPEG: a phone's own is several megabytes. Throws where it cannot be read as a picture. */
export async function smallerPicture(file: Blob, largestPx = LARGEST_PX): Promise<Blob> {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, largestPx / Math.max(image.width, image.height));
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [Math.round(image.width * scale), Math.round(image.height * scale)];
  const ground = canvas.getContext("2d");
  if (!ground) throw new Error("No picture can be drawn here.");
  // JPEG has no see-through: what is behind a sketch is paper.
  ground.fillStyle = "#fff";
  ground.fillRect(0, 0, canvas.width, canvas.height);
  ground.drawImage(image, 0, 0, canvas.width, canvas.height);
  return blobOf(canvas);
}

export function blobOf(canvas: HTMLCanvasElement): Promise<Blob> {
  return new Promise((yes, no) =>
    canvas.toBlob(
      (blob) => (blob ? yes(blob) : no(new Error("The picture could not be written."))),
      "image/jpeg",
      QUALITY,
    ),
  );
}

export async function base64Of(blob: Blob): Promise<string> {
  const bytes = new Uint8Array(await blob.arrayBuffer());
  let text = "";
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}
