"use client";
import { useMutation } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { savePreferences } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";

/** The columns that the person chose for lists of documents; kept with the person. */
export function usePaperColumns(): { readonly columnKeys: readonly string[]; readonly chooseColumns: (keys: readonly string[]) => void } {
  const { me } = useMe();
  const notices = useNotices();
  const router = useRouter();
  const [columnKeys, setKeys] = useState(me.preferences.paperColumns);
  const keep = useMutation({
    mutationFn: (paperColumns: readonly string[]) => savePreferences({ paperColumns: [...paperColumns] }),
    onSuccess: () => router.refresh(),
    onError: notices.wrong,
  });
  return {
    columnKeys,
    chooseColumns: (keys) => {
      setKeys([...keys]);
      keep.mutate(keys);
    },
  };
}
