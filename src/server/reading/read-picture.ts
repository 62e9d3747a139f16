import sharp from "sharp";
import type { PageText } from "#core/pages/page-text.ts";
import { problemOnly, type Reader } from "./read-outcome.ts";

// One picture at a time in each thread: two workers already use both cores.
sharp.concurrency(1);
sharp.cache(false);

/** Dots per inch assumed of a picture that says nothing sensible. */
const DENSITY_ASSUMED = 150;

/** Reads a picture's pages and their sizes as displayed (turned by its camera's mark). There is no text in it yet. */
export const readPicture: Reader = async (file, options) => {
  try {
    const picture = sharp(file, { failOn: "error" });
    const about = await picture.metadata();
    const pages = options.kind === "tiff" || options.kind === "tiffOther" ? (about.pages ?? 1) : 1;
    if (pages > options.pagesMax) return { ...problemOnly("too-many-pages", `${pages} pages, at most ${options.pagesMax}`), pages };
    const pageTexts: PageText[] = [];
    for (let number = 1; number <= pages; number++) {
      const page = number === 1 ? about : await sharp(file, { page: number - 1 }).metadata();
      const density = page.density !== undefined && page.density >= 50 && page.density <= 1200 ? page.density : DENSITY_ASSUMED;
      const turned = (page.orientation ?? 1) >= 5;
      const [width, height] = turned ? [page.height, page.width] : [page.width, page.height];
      pageTexts.push({ number, widthPoints: (width * 72) / density, heightPoints: (height * 72) / density, words: [] });
    }
    // Decoding shows damage that the header does not; a small one is made anyway for the list.
    await sharp(file, { failOn: "error" }).resize({ width: 64 }).raw().toBuffer();
    return { pages, pageTexts, body: "", outline: null, problem: null };
  } catch {
    return problemOnly("broken");
  }
};
