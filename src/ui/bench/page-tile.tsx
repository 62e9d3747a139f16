"use client";
import { draggable, dropTargetForElements } from "@atlaskit/pragmatic-drag-and-drop/element/adapter";
import { combine } from "@atlaskit/pragmatic-drag-and-drop/combine";
import { useEffect, useRef, useState } from "react";
import { Scissors, UpcScan } from "react-bootstrap-icons";
import { type BenchPage, pageKey } from "#core/bench/bench-table.ts";
import { keysOf } from "./use-drop.ts";

/** Room for a page's picture, px. */
const PICTURE_WIDTH = 122;
const PICTURE_HEIGHT = 160;

/** What is known of a page, for its tile. */
export interface TileFacts {
  /** Address of its source in the API. */
  readonly base: string;
  /** Names the content in the picture's address. */
  readonly of: string;
  readonly label: string;
  readonly blank: boolean;
  /** What its code says, in a word. */
  readonly code: string | null;
  /** Why a cut is proposed before it. */
  readonly cut: string | null;
}

/** A page on the bench: a picture that can be pointed at, dragged, and cut before. */
export function PageTile({
  page,
  facts,
  isFirst,
  isFocus,
  isChosen,
  dragged,
  onPoint,
  onCut,
  onDrop,
}: {
  page: BenchPage;
  facts: TileFacts;
  /** The first of its pile has nothing to be cut from. */
  isFirst: boolean;
  isFocus: boolean;
  isChosen: boolean;
  /** What goes along when it is dragged. */
  dragged: () => readonly string[];
  onPoint: (how: { readonly range?: boolean; readonly add?: boolean }) => void;
  onCut: (() => void) | null;
  /** Pages were dropped on it: on its left or right half. */
  onDrop: (keys: ReadonlySet<string>, side: "before" | "after") => void;
}) {
  const tile = useRef<HTMLDivElement>(null);
  const [over, setOver] = useState<"before" | "after" | null>(null);
  const key = pageKey(page);
  const current = useRef({ dragged, onDrop });
  useEffect(() => {
    current.current = { dragged, onDrop };
  });
  useEffect(() => {
    const element = tile.current;
    if (!element) return;
    const sideOf = (x: number): "before" | "after" => {
      const box = element.getBoundingClientRect();
      return x < box.left + box.width / 2 ? "before" : "after";
    };
    return combine(
      draggable({ element, getInitialData: () => ({ pages: current.current.dragged() }) }),
      dropTargetForElements({
        element,
        canDrop: ({ source }) => Array.isArray(source.data["pages"]),
        onDrag: ({ location }) => setOver(sideOf(location.current.input.clientX)),
        onDragLeave: () => setOver(null),
        onDrop: ({ source, location }) => {
          setOver(null);
          current.current.onDrop(keysOf(source.data["pages"]), sideOf(location.current.input.clientX));
        },
      }),
    );
  }, [key]);
  const sideways = page.turn % 180 !== 0;
  return (
    <div className={`bench-tile ${over ? `drops-${over}` : ""}`} ref={tile}>
      {isFirst || !onCut ? (
        <span className="bench-gap" />
      ) : (
        <button
          type="button"
          className={`bench-gap ${facts.cut ? "is-proposed" : ""}`}
          tabIndex={facts.cut ? 0 : -1}
          aria-label={`Cut before ${facts.label}${facts.cut ? `: ${facts.cut}` : ""}`}
          title={facts.cut ? `Cut here: ${facts.cut}` : "Cut here"}
          onClick={onCut}
        >
          <Scissors size={13} aria-hidden="true" />
        </button>
      )}
      <button
        type="button"
        className={`bench-page ${isFocus ? "is-focus" : ""} ${isChosen ? "is-chosen" : ""}`}
        data-page-key={key}
        aria-label={`${facts.label}${facts.blank ? ", blank" : ""}${facts.code ? `, ${facts.code}` : ""}${page.turn ? `, turned by ${page.turn}°` : ""}`}
        aria-pressed={isChosen}
        aria-current={isFocus ? "true" : undefined}
        tabIndex={isFocus ? 0 : -1}
        onClick={(e) => onPoint({ range: e.shiftKey, add: e.ctrlKey })}
      >
        <span className="bench-picture" style={{ width: PICTURE_WIDTH, height: PICTURE_HEIGHT }}>
          <img
            src={`/api/v1${facts.base}/pages/${page.page}.jpg?width=160&of=${facts.of}`}
            alt=""
            draggable={false}
            decoding="async"
            style={{
              maxWidth: sideways ? PICTURE_HEIGHT : PICTURE_WIDTH,
              maxHeight: sideways ? PICTURE_WIDTH : PICTURE_HEIGHT,
              transform: page.turn === 0 ? undefined : `rotate(${page.turn}deg)`,
            }}
          />
        </span>
        <span className="bench-label">
          {facts.label}
          {facts.code ? <UpcScan size={11} aria-hidden="true" /> : null}
          {facts.blank ? <span className="text-3">blank</span> : null}
        </span>
      </button>
    </div>
  );
}
