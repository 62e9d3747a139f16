import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import { readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { systemCode } from "../ports/system-code.ts";
import { config } from "./config.ts";

const KEY_BYTES = 32;
const NONCE_BYTES = 12;
let loaded: { readonly from: string; readonly key: Buffer } | null = null;

/** The key that secrets are kept under: AMBER_KEY (64 hex digits), else the file `key` in the data folder, which is made at the first need. */
function secretKey(): Buffer {
  const { secretKeyHex, dataFolder } = config();
  const from = secretKeyHex ?? path.join(dataFolder, "key");
  if (loaded?.from === from) return loaded.key;
  const key = Buffer.from(secretKeyHex ?? keyFile(from), "hex");
  if (key.length !== KEY_BYTES) throw new Error("the key for secrets is not 64 hex digits");
  loaded = { from, key };
  return key;
}

function keyFile(file: string): string {
  try {
    // Made by whoever is first; everybody else reads that one.
    writeFileSync(file, randomBytes(KEY_BYTES).toString("hex"), { mode: 0o600, flag: "wx" });
  } catch (error) {
    if (systemCode(error) !== "EEXIST") throw error;
  }
  return readFileSync(file, "utf8").trim();
}

/** Locks a secret (AES-256-GCM). `place` is bound to it: a secret copied to another row does not open there. */
export function lockSecret(secret: string, place: string): string {
  const nonce = randomBytes(NONCE_BYTES);
  const cipher = createCipheriv("aes-256-gcm", secretKey(), nonce);
  cipher.setAAD(Buffer.from(place));
  const locked = Buffer.concat([cipher.update(secret, "utf8"), cipher.final()]);
  return ["1", nonce.toString("base64"), cipher.getAuthTag().toString("base64"), locked.toString("base64")].join(".");
}

/** Opens a locked secret; null when the key is another one or it was altered. */
export function openSecret(locked: string, place: string): string | null {
  const [form, nonce = "", tag = "", text = ""] = locked.split(".");
  if (form !== "1") return null;
  try {
    const decipher = createDecipheriv("aes-256-gcm", secretKey(), Buffer.from(nonce, "base64"));
    decipher.setAAD(Buffer.from(place));
    decipher.setAuthTag(Buffer.from(tag, "base64"));
    return Buffer.concat([decipher.update(Buffer.from(text, "base64")), decipher.final()]).toString("utf8");
  } catch {
    return null;
  }
}
