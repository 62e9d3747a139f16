"use client";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import type { DocumentType } from "#core/documents/document-type.ts";
import type { RecordType } from "#core/records/record-type.ts";
import type { Me } from "#server/people/load-me.ts";

interface MeValue {
  readonly me: Me;
  /** The company shown; undefined for all of them. */
  readonly company: string | undefined;
  setCompany(code: string | undefined): void;
  recordType(key: string): RecordType | undefined;
  documentType(key: string): DocumentType | undefined;
}
const MeContext = createContext<MeValue | null>(null);

/** Who works here, the types and queues, and the company that is shown. */
export function MeProvider({ me, startCompany, children }: { me: Me; startCompany: string | undefined; children: ReactNode }) {
  const [company, set] = useState<string | undefined>(startCompany);
  const setCompany = useCallback((code: string | undefined) => {
    set(code);
    document.cookie = `amber-company=${code ?? ""}; path=/; max-age=31536000; samesite=lax`;
  }, []);
  const value = useMemo<MeValue>(() => {
    const records = new Map(me.recordTypes.map((t) => [t.key, t]));
    const documents = new Map(me.documentTypes.map((t) => [t.key, t]));
    return { me, company, setCompany, recordType: (key) => records.get(key), documentType: (key) => documents.get(key) };
  }, [me, company, setCompany]);
  return <MeContext.Provider value={value}>{children}</MeContext.Provider>;
}

/** Who works here. */
export function useMe(): MeValue {
  const value = useContext(MeContext);
  if (!value) throw new Error("MeProvider is missing above");
  return value;
}
