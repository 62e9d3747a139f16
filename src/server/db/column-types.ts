import { bigint, customType, timestamp } from "drizzle-orm/pg-core";

/** Bytes. */
export const bytea = customType<{ data: Uint8Array; driverData: Buffer }>({
  dataType: () => "bytea",
  fromDriver: (value) => new Uint8Array(value),
  toDriver: (value) => Buffer.from(value),
});

/** Sets of whole numbers, as ranges: `{[0,500),[502,900)}`. Read and written by the database only. */
export const wholeRanges = customType<{ data: string; driverData: string }>({ dataType: () => "int4multirange" });
/** The same of ids. */
export const longRanges = customType<{ data: string; driverData: string }>({ dataType: () => "int8multirange" });

/** An instant; always with its zone. */
export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: "date", precision: 3 });

/** A whole number that fits in a JavaScript number. */
export const whole = (name: string) => bigint(name, { mode: "number" });
