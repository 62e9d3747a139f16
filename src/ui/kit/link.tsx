"use client";
import NextLink from "next/link";
import { type ComponentProps, useState } from "react";

/**
 * A link to a view of ours. The view is fetched ahead when somebody points at the link or comes to it by keys, and not when it is merely in sight: a list
 * shows dozens of them, and each would be asked for on every look at the list.
 */
export function Link({ onPointerEnter, onFocus, ...rest }: ComponentProps<typeof NextLink>) {
  const [isNear, setNear] = useState(false);
  return (
    <NextLink
      {...rest}
      prefetch={isNear ? null : false}
      onPointerEnter={(event) => {
        setNear(true);
        onPointerEnter?.(event);
      }}
      onFocus={(event) => {
        setNear(true);
        onFocus?.(event);
      }}
    />
  );
}
