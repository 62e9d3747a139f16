"use client";
import { useQuery } from "@tanstack/react-query";
import { usePathname, useRouter } from "next/navigation";
import { type ComponentType, type ReactNode, useCallback, useEffect, useState } from "react";
import { Dropdown } from "react-bootstrap";
import { Building, Columns as DeskIcon, Diagram3, Hdd, Inboxes, JournalBookmark, Search, Sliders } from "react-bootstrap-icons";
import { apiGet, savePreferences } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { Loop } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";
import { UploadsProvider } from "../arrivals/uploads.tsx";
import { JumpBox } from "./jump-box.tsx";
import { KeysDialog } from "./keys-dialog.tsx";
import { TopSlotProvider, useTopSlotTarget } from "./top-slot.tsx";

/** Waiting arrivals are counted this often, ms. */
const COUNT_EVERY_MS = 10_000;

interface Place {
  readonly href: string;
  readonly label: string;
  readonly icon: ComponentType<{ size?: number }>;
  readonly count?: number | undefined;
}

/** The frame of every page: rail, top line with the jump field, company and person. */
export function Frame({ children }: { children: ReactNode }) {
  return (
    <UploadsProvider>
      <TopSlotProvider>
        <Inner>{children}</Inner>
      </TopSlotProvider>
    </UploadsProvider>
  );
}

function Inner({ children }: { children: ReactNode }) {
  const { me, company, setCompany } = useMe();
  const path = usePathname();
  const router = useRouter();
  const notices = useNotices();
  const target = useTopSlotTarget();
  const [jumping, setJumping] = useState(false);
  const [jumpCalls, setJumpCalls] = useState(0);
  const jump = useCallback((): void => {
    setJumping(true);
    setJumpCalls((n) => n + 1);
  }, []);
  const [keysShown, setKeysShown] = useState(false);
  const counts = useQuery({
    queryKey: ["arrivalCounts"],
    queryFn: ({ signal }) => apiGet<{ items: { queue: string; open: number }[] }>("/arrivals/counts", signal),
    refetchInterval: COUNT_EVERY_MS,
  });
  const waiting = counts.data?.items.reduce((sum, q) => sum + q.open, 0);
  const places: readonly Place[] = [
    { href: "/desk", label: "Desk", icon: DeskIcon },
    { href: "/arrivals", label: "Arrivals", icon: Inboxes, count: me.may.file ? waiting : undefined },
    { href: "/records", label: "Records", icon: JournalBookmark },
    { href: "/find", label: "Find", icon: Search },
    { href: "/repository", label: "Repository", icon: Hdd },
    ...(me.may.plan ? [{ href: "/filing-plan", label: "Filing plan", icon: Diagram3 }] : []),
    ...(me.may.manage ? [{ href: "/set-up", label: "Set-up", icon: Sliders }] : []),
  ];
  useKeys({ "?": () => setKeysShown(true), z: () => notices.undoLast() });
  useEffect(() => {
    // Ctrl K works in fields too.
    const listen = (e: KeyboardEvent): void => {
      if (e.ctrlKey && e.key.toLowerCase() === "k") {
        e.preventDefault();
        jump();
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [jump]);
  const shown = me.companies.find((c) => c.code === company);
  const initials = me.name
    .split(" ")
    .map((n) => n[0])
    .join("")
    .slice(0, 2);
  return (
    <div className="frame">
      <a className="visually-hidden-focusable position-absolute z-3 btn btn-plain" href="#main">
        Skip to content
      </a>
      <nav className="rail" aria-label="Main menu">
        <Link href="/desk" className="emblem" aria-label="Amber Clip, to the desk">
          <Loop size={28} />
        </Link>
        {places.map(({ href, label, icon: PlaceIcon, count }) => (
          <Link
            key={href}
            href={href}
            aria-current={
              path === href || path.startsWith(`${href}/`) || (href === "/records" && path.startsWith("/documents/")) ? "page" : undefined
            }
          >
            <PlaceIcon size={19} aria-hidden="true" />
            <span>{label}</span>
            {count ? (
              <span className="count" title={`${count} waiting`}>
                {count > 999 ? "999+" : count}
                <span className="visually-hidden"> waiting</span>
              </span>
            ) : null}
          </Link>
        ))}
      </nav>
      <header className="top">
        <div className="where" ref={target} />
        <button type="button" className="jump" onClick={jump}>
          <Search size={13} aria-hidden="true" />
          <span>Go to a record, document or page</span>
          <kbd>Ctrl K</kbd>
        </button>
        {me.companies.length > 1 ? (
          <Dropdown align="end">
            <Dropdown.Toggle variant="quiet" className="chip border-0" aria-label={`Company shown: ${shown?.name ?? "All companies"}`}>
              <Building className="company-icon" aria-hidden="true" />
              <span className="company-name">{shown?.name ?? "All companies"}</span>
            </Dropdown.Toggle>
            <Dropdown.Menu>
              {me.companies.map((c) => (
                <Dropdown.Item key={c.code} active={company === c.code} onClick={() => setCompany(c.code)}>
                  {c.name}
                </Dropdown.Item>
              ))}
              <Dropdown.Item active={company === undefined} onClick={() => setCompany(undefined)}>
                All companies
              </Dropdown.Item>
            </Dropdown.Menu>
          </Dropdown>
        ) : (
          <span className="chip company-name">{me.companies[0]?.name}</span>
        )}
        <Dropdown align="end">
          <Dropdown.Toggle as="button" className="avatar" aria-label={`${initials}, ${me.name}: person menu`}>
            {initials}
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Header>
              <div className="fw-bold text-body">{me.name}</div>
              {me.roles.join(", ")}
            </Dropdown.Header>
            {(["light", "dark", "device"] as const).map((look) => (
              <Dropdown.Item key={look} as="button" onClick={() => chooseLook(look)}>
                {{ light: "Light", dark: "Dark", device: "Follow the device" }[look]}
              </Dropdown.Item>
            ))}
            <Dropdown.Divider />
            <Dropdown.Item
              as="button"
              onClick={() =>
                void savePreferences({ asksBeforeMove: !me.preferences.asksBeforeMove }).then(() => router.refresh(), notices.wrong)
              }
            >
              {me.preferences.asksBeforeMove ? "Move documents without asking" : "Ask before moving documents"}
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => setKeysShown(true)}>
              Keyboard shortcuts <kbd>?</kbd>
            </Dropdown.Item>
            <Dropdown.Divider />
            <Dropdown.Item
              as="button"
              onClick={() =>
                void fetch("/api/auth/sign-out", { method: "POST", headers: { "content-type": "application/json" }, body: "{}" }).then(
                  () => {
                    router.push("/sign-in");
                    router.refresh();
                  },
                )
              }
            >
              Sign out
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      </header>
      <main className="main" id="main">
        {children}
      </main>
      <JumpBox shown={jumping} calls={jumpCalls} places={places} onHide={() => setJumping(false)} />
      <KeysDialog shown={keysShown} onHide={() => setKeysShown(false)} />
    </div>
  );
}

/** Chooses the light or dark set for this browser; "device" forgets the choice and follows the device again (public/theme.js). */
function chooseLook(look: "light" | "dark" | "device"): void {
  const isDark = look === "device" ? window.matchMedia("(prefers-color-scheme: dark)").matches : look === "dark";
  document.documentElement.dataset["bsTheme"] = isDark ? "dark" : "light";
  document.cookie = `amber-theme=${look}; path=/; max-age=${look === "device" ? 0 : 31536000}; samesite=lax`;
}
