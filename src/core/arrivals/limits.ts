import { z } from "zod";

/** What is taken in. An administrator sets these; every way in holds to them. */
export const limitsSchema = z.object({
  /** Largest file, bytes. */
  bytesMax: z
    .number()
    .int()
    .min(1024)
    .max(4 * 1024 ** 3),
  /** Most pages of one document. */
  pagesMax: z.number().int().min(1).max(20_000),
  /** Kinds that are taken in, by content and not by name. */
  kinds: z.array(z.string()),
  /** Most files of one drop. */
  filesMax: z.number().int().min(1).max(10_000),
});
export type IntakeLimits = z.infer<typeof limitsSchema>;

/** What one queue narrows the limits to; what is absent is as everywhere. Files of one drop are no affair of a queue's. */
export const queueLimitsSchema = limitsSchema.pick({ bytesMax: true, pagesMax: true, kinds: true }).partial();
export type QueueLimits = z.infer<typeof queueLimitsSchema>;

/** The limits of a queue: nowhere wider than those that hold everywhere. */
export function narrowLimits(limits: IntakeLimits, queue: QueueLimits | null): IntakeLimits {
  if (!queue) return limits;
  return {
    bytesMax: Math.min(limits.bytesMax, queue.bytesMax ?? limits.bytesMax),
    pagesMax: Math.min(limits.pagesMax, queue.pagesMax ?? limits.pagesMax),
    kinds: queue.kinds ? limits.kinds.filter((k) => queue.kinds?.includes(k)) : limits.kinds,
    filesMax: limits.filesMax,
  };
}

/** Kinds of content the program tells apart. */
export const contentKinds = {
  pdf: { label: "PDF", mediaType: "application/pdf", ending: ".pdf" },
  jpeg: { label: "JPEG picture", mediaType: "image/jpeg", ending: ".jpg" },
  png: { label: "PNG picture", mediaType: "image/png", ending: ".png" },
  tiff: { label: "TIFF picture", mediaType: "image/tiff", ending: ".tif" },
  webp: { label: "WebP picture", mediaType: "image/webp", ending: ".webp" },
  gif: { label: "GIF picture", mediaType: "image/gif", ending: ".gif" },
  heic: { label: "HEIC photograph", mediaType: "image/heic", ending: ".heic" },
  avif: { label: "AVIF picture", mediaType: "image/avif", ending: ".avif" },
  bmp: { label: "BMP picture", mediaType: "image/bmp", ending: ".bmp" },
  /** TIFF with twelve bits a sample or in Lab colours, which is converted before anything else opens it. Allowed with TIFF. */
  tiffOther: { label: "TIFF picture, 12 bit or Lab", mediaType: "image/tiff", ending: ".tif" },
  mail: { label: "mail", mediaType: "message/rfc822", ending: ".eml" },
  msg: { label: "message file", mediaType: "application/vnd.ms-outlook", ending: ".msg" },
  docx: { label: "Word document", mediaType: "application/vnd.openxmlformats-officedocument.wordprocessingml.document", ending: ".docx" },
  xlsx: { label: "Excel workbook", mediaType: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", ending: ".xlsx" },
  docm: {
    label: "Word document with macros",
    mediaType: "application/vnd.ms-word.document.macroEnabled.12",
    ending: ".docm",
  },
  xlsm: { label: "Excel workbook with macros", mediaType: "application/vnd.ms-excel.sheet.macroEnabled.12", ending: ".xlsm" },
  csv: { label: "CSV table", mediaType: "text/csv", ending: ".csv" },
  xml: { label: "XML", mediaType: "application/xml", ending: ".xml" },
  text: { label: "text", mediaType: "text/plain", ending: ".txt" },
  office: { label: "other office file", mediaType: "application/octet-stream", ending: "" },
  archive: { label: "archive", mediaType: "application/octet-stream", ending: "" },
  program: { label: "program", mediaType: "application/octet-stream", ending: "" },
  unknown: { label: "unknown", mediaType: "application/octet-stream", ending: "" },
} as const;
export type ContentKind = keyof typeof contentKinds;

/** Kinds that have pages which can be drawn as they are: on the bench, in a pack, one beside the other. */
export const drawnKinds: readonly ContentKind[] = ["pdf", "jpeg", "png", "tiff", "tiffOther", "webp", "gif", "heic", "avif", "bmp"];
/** Kinds that an administrator does not tell apart from another: allowed with that one. */
const allowedWith: Partial<Record<ContentKind, ContentKind>> = { tiffOther: "tiff" };
/** Whether files of a kind are taken in. */
export const isKindAllowed = (kind: ContentKind, limits: Pick<IntakeLimits, "kinds">): boolean =>
  limits.kinds.includes(allowedWith[kind] ?? kind);
/** Kinds that are offered to an administrator by name. */
export const offeredKinds = (Object.keys(contentKinds) as ContentKind[]).filter(
  (k) => k !== "unknown" && k !== "program" && !(k in allowedWith),
);
/** Whether pages of this kind can be drawn as they are; office files are laid out first. */
export const hasPictures = (kind: string | null): kind is ContentKind => drawnKinds.some((k) => k === kind);

export const defaultLimits: IntakeLimits = {
  bytesMax: 200 * 1024 * 1024,
  pagesMax: 2000,
  kinds: [
    "pdf",
    "jpeg",
    "png",
    "tiff",
    "webp",
    "gif",
    "heic",
    "avif",
    "bmp",
    "mail",
    "msg",
    "docx",
    "docm",
    "xlsx",
    "xlsm",
    "csv",
    "xml",
    "text",
    "office",
  ],
  filesMax: 1000,
};

/** Why a file is refused before it is sent, and whether it goes into the register all the same, set aside: a person looks for it there. */
export interface UploadRefusal {
  readonly words: string;
  readonly isRegistered: boolean;
}

/** Why a file is not taken in, said before upload; null when it may go. Content is judged by the server, this only sees name and size. */
export function refuseBeforeUpload(
  file: { readonly name: string; readonly sizeBytes: number },
  limits: IntakeLimits,
): UploadRefusal | null {
  if (file.sizeBytes === 0) return { words: "The file is empty.", isRegistered: true };
  if (file.sizeBytes > limits.bytesMax)
    return { words: `The file is larger than the ${Math.floor(limits.bytesMax / 1024 / 1024)} MB allowed.`, isRegistered: false };
  if (/\.(exe|msi|bat|cmd|com|scr|ps1|sh|jar|app|dll|vbs)$/i.test(file.name))
    return { words: "Programs are not accepted.", isRegistered: true };
  return null;
}

/** Endings that say the kind; used to notice a mislabelled file. Absent endings say nothing. */
export const endingKinds: Readonly<Record<string, ContentKind>> = {
  ".pdf": "pdf",
  ".jpg": "jpeg",
  ".jpeg": "jpeg",
  ".png": "png",
  ".tif": "tiff",
  ".tiff": "tiff",
  ".webp": "webp",
  ".gif": "gif",
  ".heic": "heic",
  ".heif": "heic",
  ".avif": "avif",
  ".bmp": "bmp",
  ".docm": "docm",
  ".xlsm": "xlsm",
  ".eml": "mail",
  ".msg": "msg",
  ".docx": "docx",
  ".xlsx": "xlsx",
  ".csv": "csv",
  ".xml": "xml",
  ".txt": "text",
};

/** Whether a name's ending promises another kind than the content is. Text kinds pass for each other. */
export function isMislabelled(ending: string, kind: ContentKind): boolean {
  const promised = endingKinds[ending.toLowerCase()];
  if (promised === undefined || promised === kind || allowedWith[kind] === promised) return false;
  const textual: readonly ContentKind[] = ["text", "csv", "xml", "mail"];
  return !(textual.includes(promised) && textual.includes(kind));
}
