import { z } from "zod";

/** What a value should have been, in words. */
const kindWords: Readonly<Record<string, string>> = {
  string: "text",
  number: "a number",
  int: "a whole number",
  boolean: "yes or no",
  array: "a list",
  tuple: "a list",
  object: "a set of named values",
  record: "a set of named values",
  date: "a day",
};

const formatWords: Readonly<Record<string, string>> = {
  email: "is not a mail address",
  url: "is not an address",
  date: "is not a day, such as 2026-11-28",
  datetime: "is not a time, such as 2026-11-28T09:30:00Z",
};

/** Choices that are named; more would not be read. */
const CHOICES_NAMED = 8;

const many = (count: number | bigint, one: string, more: string): string => `${count} ${Number(count) === 1 ? one : more}`;

/** What is wrong with a value, to stand behind the name of its field: "is missing". Undefined for what has words of its own. */
export function fieldWords(issue: z.core.$ZodRawIssue): string | undefined {
  switch (issue.code) {
    case "invalid_type":
      return issue.input === undefined || issue.input === null ? "is missing" : `is not ${kindWords[issue.expected] ?? issue.expected}`;
    case "too_small":
      if (issue.origin === "string")
        return issue.minimum === 1 ? "is empty" : `is shorter than ${many(issue.minimum, "character", "characters")}`;
      if (issue.origin === "array" || issue.origin === "set")
        return issue.minimum === 1 ? "is empty" : `has fewer than ${many(issue.minimum, "entry", "entries")}`;
      return issue.inclusive === false ? `must be greater than ${issue.minimum}` : `must be at least ${issue.minimum}`;
    case "too_big":
      if (issue.origin === "string") return `is longer than ${many(issue.maximum, "character", "characters")}`;
      if (issue.origin === "array" || issue.origin === "set") return `has more than ${many(issue.maximum, "entry", "entries")}`;
      return issue.inclusive === false ? `must be less than ${issue.maximum}` : `must be at most ${issue.maximum}`;
    case "invalid_format":
      return formatWords[issue.format] ?? "has the wrong format";
    case "invalid_value":
      if (issue.input === undefined) return "is missing";
      return issue.values.length > CHOICES_NAMED ? "is not an allowed value" : `is not one of: ${issue.values.map(String).join(", ")}`;
    case "invalid_union":
      return issue.input === undefined ? "is missing" : "is not an allowed value";
    case "unrecognized_keys":
      return `contains unknown entries: ${issue.keys.join(", ")}`;
    case "not_multiple_of":
      return `is not a multiple of ${issue.divisor}`;
    default:
      return undefined;
  }
}

/** Makes every check of this process say what is wrong in these words where its schema has none of its own. */
export function speakPlainly(): void {
  z.config({ customError: fieldWords });
}
