import { z } from "zod";
import { reachWishSchema } from "../../reach/reach.ts";
import { changeSchema } from "../../documents/change-document.ts";
import { define, cursor, day, short, company, documentParams, documentPageParams, pictureQuery, contentQuery } from "./operation.ts";

/** Calls about documents and finding them. */
export const documentsOperations = define({
  document: { method: "GET", path: "/documents/{code}", summary: "A document", params: documentParams, answers: "the document" },
  documentView: {
    method: "GET",
    path: "/documents/{code}/view",
    summary: "What a viewer shows it from",
    params: documentParams,
    answers: "{kind, pages, outline, text}",
  },
  documentContent: {
    method: "GET",
    path: "/documents/{code}/content",
    summary: "Its bytes",
    params: documentParams,
    query: contentQuery,
    answers: "the bytes",
  },
  documentText: { method: "GET", path: "/documents/{code}/text", summary: "Its text", params: documentParams, answers: "text/plain" },
  documentPage: {
    method: "GET",
    path: "/documents/{code}/pages/{page}",
    summary: "A page's picture ({n}.png, {n}.jpg) or words ({n}.words)",
    params: documentPageParams,
    query: pictureQuery,
    answers: "image/png",
  },
  documentTimeline: {
    method: "GET",
    path: "/documents/{code}/timeline",
    summary: "What happened to it",
    params: documentParams,
    answers: "{items}",
  },
  unfile: {
    method: "POST",
    path: "/documents/{code}/unfile",
    summary: "Take it off its records and back to Arrivals",
    params: documentParams,
    answers: "{arrivalId}",
  },
  placeAgain: {
    method: "POST",
    path: "/documents/{code}/place-again",
    summary: "Try to place it again",
    params: documentParams,
    answers: "{state}",
  },
  find: {
    method: "GET",
    path: "/find",
    summary: "Find documents by their words",
    query: z.object({
      q: z.string().max(300).default(""),
      type: short,
      recordType: short,
      company,
      from: day,
      to: day,
      limit: z.coerce.number().int().min(1).max(100).default(25),
      cursor,
    }),
    answers: "{items, total, totalIsExact, facets, next}",
  },
  changeDocument: {
    method: "PATCH",
    path: "/documents/{code}",
    summary: "Change its title, type, properties or clips; answers the move it causes",
    params: documentParams,
    body: changeSchema,
    answers: "{code, title, move}",
  },
  reach: {
    method: "POST",
    path: "/clips/reach",
    summary: "Which records would see a clip of a document type; nothing is written",
    body: reachWishSchema,
    answers: "{items}",
  },
  shelveDocument: {
    method: "POST",
    path: "/documents/{code}/shelf",
    summary: "Put it on a shelf, or take it off; it is stored once",
    params: documentParams,
    body: z.object({ shelf: z.number().int(), on: z.boolean().default(true) }),
    answers: "the shelf",
  },
});
