import type { Colour } from "#core/pages/straighten-photo.ts";

/** Longest side that a photograph is worked on in, dots. */
const PHOTO_MAX = 2600;

/** A photograph's dots, upright as its camera meant it, and an address to show it by. Throws when it cannot be opened. */
export async function openPhoto(file: Blob): Promise<{ readonly photo: Colour; readonly url: string }> {
  const bitmap = await createImageBitmap(file, { imageOrientation: "from-image" });
  const scale = Math.min(1, PHOTO_MAX / Math.max(bitmap.width, bitmap.height));
  const [width, height] = [Math.round(bitmap.width * scale), Math.round(bitmap.height * scale)];
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("This browser cannot process pictures");
  context.drawImage(bitmap, 0, 0, width, height);
  bitmap.close();
  const { data } = context.getImageData(0, 0, width, height);
  return { photo: { width, height, data }, url: await urlOf(canvas) };
}

/** A page as a JPEG. */
export async function jpegOf(page: Colour): Promise<Blob> {
  const canvas = document.createElement("canvas");
  canvas.width = page.width;
  canvas.height = page.height;
  canvas.getContext("2d")?.putImageData(new ImageData(new Uint8ClampedArray(page.data), page.width, page.height), 0, 0);
  return blobOf(canvas);
}

const urlOf = async (canvas: HTMLCanvasElement): Promise<string> => URL.createObjectURL(await blobOf(canvas));

function blobOf(canvas: HTMLCanvasElement): Promise<Blob> {
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error("The picture could not be created"))), "image/jpeg", 0.86),
  );
}

/** Pages as one PDF, each as wide as a sheet; the pictures go in as they are. */
export async function pdfOf(pages: readonly Blob[]): Promise<Blob> {
  // Only needed here, and large.
  const { PDFDocument } = await import("@cantoo/pdf-lib");
  const pdf = await PDFDocument.create();
  for (const blob of pages) {
    const picture = await pdf.embedJpg(await blob.arrayBuffer());
    const across = picture.width <= picture.height ? 595.28 : 841.89;
    const height = (picture.height / picture.width) * across;
    pdf.addPage([across, height]).drawImage(picture, { x: 0, y: 0, width: across, height });
  }
  return new Blob([new Uint8Array(await pdf.save())], { type: "application/pdf" });
}
