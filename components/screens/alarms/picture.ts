const LARGEST_PX = 1600;

/** A picture no larger than it need be, as base64: a phone's own is several megabytes. */
export async function smallerPicture(file: File): Promise<{ type: "image/jpeg"; data: string }> {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, LARGEST_PX / Math.max(image.width, image.height));
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [Math.round(image.width * scale), Math.round(image.height * scale)];
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return { type: "image/jpeg", data: canvas.toDataURL("image/jpeg", 0.82).split(",")[1] as string };
}
