// The columns of the waybill: which there are, which are shown, and how the rows are sorted and grouped.
import type { ReactNode } from "react";
import type { EntryRow } from "../api/schema";
import { REACH, sides, size } from "../parts/words";

export interface Column {
  key: string;
  title: string;
  width: string;
  narrow: string;
  right?: boolean;
  cell: (entry: EntryRow) => ReactNode;
}

export function why(entry: EntryRow): string {
  if (!entry.enabled) return "turned off";
  if (!entry.chosen) return entry.required_by.length ? `needed by ${entry.required_by.join(", ")}` : "came along, and nothing needs it now";
  const offered = entry.optional ? (entry.one_of ? `one of “${entry.one_of}”` : entry.by_default ? "optional" : "optional, left out by default") : "";
  return [offered, entry.pin !== null ? `pinned${entry.pin ? `: ${entry.pin}` : ""}` : "", entry.keep.length + entry.drop.length ? "only some of its files" : "", entry.summary].filter(Boolean).join(" · ");
}

const build = (entry: EntryRow) => (
  <>
    <span className="mono strong">{entry.version ?? "any"}</span>
    {entry.newest && entry.version && entry.newest !== entry.version && <span className="newer" title={`A newer build fits: ${entry.newest}`}>newer: <span className="mono">{entry.newest}</span></span>}
  </>
);

const text = (given: string, quiet = false) => <span title={given} className={quiet ? "quiet" : undefined}>{given}</span>;

export const COLUMNS: Column[] = [
  { key: "about", title: "About, and why it is here", width: "minmax(180px, 3fr)", narrow: "", cell: (entry) => text(why(entry), true) },
  { key: "build", title: "Build", width: "150px", narrow: "140px", cell: build },
  { key: "side", title: "Side", width: "64px", narrow: "56px", cell: (entry) => text(sides(entry.sides)) },
  { key: "reach", title: "Reach", width: "92px", narrow: "84px", cell: (entry) => text(REACH[entry.reach] ?? entry.reach) },
  { key: "size", title: "Size", width: "78px", narrow: "76px", right: true, cell: (entry) => <span className="mono">{size(entry.size)}</span> },
  { key: "kind", title: "Kind", width: "110px", narrow: "", cell: (entry) => text(entry.kind_name) },
  { key: "categories", title: "Categories", width: "130px", narrow: "", cell: (entry) => text(entry.categories.join(", ")) },
  { key: "licence", title: "Licence", width: "110px", narrow: "", cell: (entry) => text(entry.licence ?? "not stated") },
  { key: "authors", title: "By", width: "120px", narrow: "", cell: (entry) => text(entry.authors.join(", ")) },
  { key: "label", title: "Label", width: "110px", narrow: "", cell: (entry) => text(entry.label) },
  { key: "note", title: "Note", width: "minmax(120px, 2fr)", narrow: "", cell: (entry) => text(entry.note) },
  { key: "checksum", title: "Checksum", width: "110px", narrow: "", cell: (entry) => <span title={entry.sha256} className="mono">{entry.sha256.slice(0, 10)}</span> },
];
const FIRST_COLUMNS = ["about", "build", "side", "reach", "size"];
const KEPT = "convoy-waybill-columns";

/** The columns this reader chose, in the order of the list; kept in this browser. */
export function keptColumns(): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "null");
    if (Array.isArray(kept)) return COLUMNS.map((column) => column.key).filter((key) => kept.includes(key));
  } catch {
    // What cannot be read is as if nothing had been kept.
  }
  return FIRST_COLUMNS;
}

export function keepColumns(keys: string[]) {
  localStorage.setItem(KEPT, JSON.stringify(keys));
}

type Order = (one: EntryRow, two: EntryRow) => number;
const names = new Intl.Collator();
const byName: Order = (one, two) => names.compare(one.name, two.name);

export const SORTS: Record<string, [string, Order]> = {
  chosen: ["chosen first", (one, two) => Number(two.chosen) - Number(one.chosen) || byName(one, two)],
  name: ["by name", byName],
  size: ["largest first", (one, two) => two.size - one.size || byName(one, two)],
  build: ["newer builds first", (one, two) => Number(two.version !== two.newest) - Number(one.version !== one.newest) || byName(one, two)],
  added: ["as added", () => 0],
};

export const GROUPS: Record<string, [string, (entry: EntryRow) => string]> = {
  category: ["by category", (entry) => entry.categories[0] ?? "no category"],
  side: ["by side", (entry) => ({ both: "client and server", client: "client only", server: "server only" })[sides(entry.sides)] ?? ""],
  along: ["by what needs it", (entry) => (entry.chosen ? "chosen" : entry.required_by.length ? `needed by ${entry.required_by[0] ?? ""}` : "needed by nothing")],
  kind: ["by kind", (entry) => entry.kind_name],
  label: ["by label", (entry) => entry.label || "no label"],
  choice: ["by offer to members", (entry) => (entry.optional ? (entry.one_of ? `one of “${entry.one_of}”` : "optional") : "part of every rig")],
};
