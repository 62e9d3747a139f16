import { describeError } from "../db/describe-error.ts";
import { db } from "../db/connect.ts";
import { suggestFor } from "./suggest-for.ts";
import { suggestAgain } from "./suggest-again.ts";

/** Finds for an arrival; what goes wrong there never keeps it from a person: it is said in the log and tried again later. */
export async function suggestQuietly(arrivalId: string): Promise<void> {
  try {
    await suggestFor(arrivalId);
  } catch (error) {
    console.error(`finding for ${arrivalId}: ${describeError(error)}`);
    await suggestAgain(db(), arrivalId, 30);
  }
}
