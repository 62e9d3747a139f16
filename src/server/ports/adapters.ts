import path from "node:path";
import { config } from "../settings/config.ts";
import { folderLandingStore, type LandingStore } from "./landing-store.ts";

/** The landing store this process was started with. */
export function landingStore(): LandingStore {
  return folderLandingStore(path.join(config().dataFolder, "landing"));
}

/** Copies of documents whose local bytes went after they were proven in the repository; everything in it can be fetched again. */
export function fetchedFolder(): string {
  return path.join(config().dataFolder, "fetched");
}

/** Folder of page pictures; everything in it can be made again. */
export function picturesFolder(): string {
  return path.join(config().dataFolder, "pictures");
}
