import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import { AppRouterContext, type AppRouterInstance } from "next/dist/shared/lib/app-router-context.shared-runtime";
import { PathnameContext } from "next/dist/shared/lib/hooks-client-context.shared-runtime";
import type { ReactElement, ReactNode } from "react";
import type { DocumentType } from "#core/documents/document-type.ts";
import type { RecordType } from "#core/records/record-type.ts";
import type { Me } from "#server/people/load-me.ts";
import { defaultLimits } from "#core/arrivals/limits.ts";
import { MeProvider } from "../people/me-context.tsx";
import { Notices } from "./notices.tsx";

const recordType = (key: string, label: string, kind: "standing" | "passing"): RecordType => ({
  key,
  label,
  plural: `${label}s`,
  kind,
  icon: "cart",
  short: label,
  fields: [{ key: "total", label: "Total", kind: "amount", required: false }],
  parent: kind === "passing" ? ["supplierAccount"] : [],
  order: 1,
});
const invoice: DocumentType = {
  key: "supplierInvoice",
  label: "Supplier invoice",
  plural: "Supplier invoices",
  icon: "receipt",
  titlePattern: "{documentType} {documentNumber}",
  confidential: false,
  usualFor: ["purchaseOrder"],
  order: 1,
  properties: [
    { key: "documentNumber", label: "Number", kind: "text", required: false },
    { key: "documentDate", label: "Dated", kind: "date", required: false },
    { key: "total", label: "Total", kind: "amount", required: false },
  ],
};

/** Somebody who may do everything, in a world of two record types and one document type. */
export const testMe: Me = {
  id: "p1",
  name: "Tam Corrigall",
  email: "tam@merrowick.example",
  roles: ["Filing clerk"],
  may: { file: true, add: true, plan: true, manage: true, register: true, import: true },
  companies: [{ code: "MF", name: "Merrowick Ferries Ltd" }],
  queues: [{ key: "payables", label: "Payables", member: true, limits: defaultLimits }],
  recordTypes: [recordType("supplierAccount", "Supplier account", "standing"), recordType("purchaseOrder", "Purchase order", "passing")],
  documentTypes: [invoice],
  preferences: { asksBeforeMove: true, savedFilters: [], paperColumns: [], arrivalSort: "newest" },
  limits: defaultLimits,
};

/** Addresses that were gone to since something was last drawn. */
export const went: string[] = [];
const router: AppRouterInstance = {
  bfcacheId: "",
  push: (address) => void went.push(address),
  replace: (address) => void went.push(address),
  back: () => {},
  forward: () => {},
  refresh: () => {},
  prefetch: () => {},
};

/** Answers kept without an end: what waits to throw one away would hold the process up for minutes. */
export const testClient = (): QueryClient =>
  new QueryClient({ defaultOptions: { queries: { retry: false, gcTime: Infinity }, mutations: { gcTime: Infinity } } });

/** Draws something with what every page has around it, as if it stood at `address`. Only for tests. */
export function renderOnPage(element: ReactElement, me: Me = testMe, address = "/") {
  went.length = 0;
  const client = testClient();
  const around = ({ children }: { children: ReactNode }) => (
    <AppRouterContext.Provider value={router}>
      <PathnameContext.Provider value={address}>
        <QueryClientProvider client={client}>
          <MeProvider me={me} startCompany="MF">
            <Notices>{children}</Notices>
          </MeProvider>
        </QueryClientProvider>
      </PathnameContext.Provider>
    </AppRouterContext.Provider>
  );
  return render(element, { wrapper: around });
}

/** Answers of the API by the beginning of the address; the longest that fits. What was asked is kept in `asked`. */
export function fakeApi(answers: Readonly<Record<string, (body: unknown, address: string) => unknown>>): {
  readonly asked: string[];
  end(): void;
} {
  const real = globalThis.fetch;
  const asked: string[] = [];
  globalThis.fetch = async (input, init) => {
    const address = String(input).replace("/api/v1", "");
    asked.push(`${init?.method ?? "GET"} ${address}`);
    const fits = Object.keys(answers)
      .filter((k) => address.startsWith(k))
      .sort((a, b) => b.length - a.length)[0];
    const found = fits === undefined ? undefined : answers[fits];
    if (!found) return Response.json({ title: "There is nothing here", status: 404, code: "not-found" }, { status: 404 });
    const answer = await found(typeof init?.body === "string" ? JSON.parse(init.body) : null, address);
    return answer instanceof Response ? answer : Response.json(answer);
  };
  return { asked, end: () => void (globalThis.fetch = real) };
}
