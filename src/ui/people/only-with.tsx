"use client";
import type { ReactNode } from "react";
import { presentations } from "#core/shared/refusals.ts";
import type { Me } from "#server/people/load-me.ts";
import { Where } from "../frame/top-slot.tsx";
import { Trouble } from "../kit/parts.tsx";
import { useMe } from "./me-context.tsx";

/** A place for people with a right. For anybody else there is nothing here, as at an address that does not exist. */
export function OnlyWith({ right, children }: { right: keyof Me["may"]; children: ReactNode }) {
  const { me } = useMe();
  if (me.may[right]) return children;
  return (
    <>
      <Where title="Nothing here" />
      <Trouble title={presentations["not-found"].title} next={presentations["not-found"].next} />
    </>
  );
}
