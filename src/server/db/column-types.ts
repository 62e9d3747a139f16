import { bigint, customType, timestamp } from "drizzle-orm/pg-core";

/** Bytes. */
export const bytea = customType<{ data: Uint8Array; driverData: Buffer }>({
  dataType: () => "bytea",
  fromDriver: (value) => new Uint8Array(value),
  toDriver: (value) => Buffer.from(value),
});

/** An instant; always with its zone. */
export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: "date", precision: 3 });

/** A whole number that fits in a JavaScript number. */
export const whole = (name: string) => bigint(name, { mode: "number" });
