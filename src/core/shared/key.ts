import { z } from "zod";

/** A key that names a type or field: camelCase, so that it can stand in patterns and addresses. */
export const keySchema = z.string().regex(/^[a-z][A-Za-z0-9]{0,39}$/, "must start with a lower-case letter; letters and digits only");
