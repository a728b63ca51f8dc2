// The waybill: the pack as one dense, ruled table on paper, with a running total at its foot.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState, type ChangeEvent, type DragEvent, type FormEvent, type MouseEvent } from "react";
import { useSearchParams } from "react-router";
import { useFindings } from "../api/queries";
import type { EntryRow, Finding } from "../api/schema";
import { Empty, Mono } from "../parts/common";
import { useKeys } from "../parts/keys";
import { count, gibibytes, sides, size } from "../parts/words";
import { COLUMNS, GROUPS, keepColumns, keptColumns, SORTS } from "./columns";
import type { Desk } from "./desk";
import { SHEET, WaybillRow, type Shape } from "./WaybillRow";
import { Chosen, Tools } from "./WaybillTools";

type Line = { head: string; size: number } | { entry: EntryRow };

function matches(entry: EntryRow, filter: string): boolean {
  const words = `${entry.name} ${entry.mod} ${entry.version} ${entry.categories.join(" ")} ${entry.reach} ${sides(entry.sides)} ${entry.kind_name} ${entry.note} ${entry.label} ${entry.authors.join(" ")} ${entry.one_of}`;
  return words.toLowerCase().includes(filter.toLowerCase());
}

/** With the whole width each entry has one line; beside an open sheet the reason goes below the name. */
function shapeOf(keys: string[], beside: boolean): Shape {
  const columns = COLUMNS.filter((column) => keys.includes(column.key) && (!beside || column.narrow));
  const widths = columns.map((column) => (beside ? column.narrow : column.width)).join(" ");
  return { row: beside ? 42 : 36, template: `34px 20px 30px minmax(170px, 2fr) ${widths} 50px`, columns, beside };
}

export function Waybill({ desk, refused }: { desk: Desk; refused: string[] }) {
  const { draft, mayEdit, open } = desk;
  const [params] = useSearchParams();
  const marks = useMarks(draft.slug);
  const [columns, setColumns] = useState(keptColumns);
  const filter = params.get("filter") ?? "";
  const sort = params.get("sort") ?? (draft.ordered ? "order" : "chosen");
  const group = params.get("group") ?? "";
  const current = params.get("sel") ?? "";
  const [marked, setMarked] = useState<Set<string>>(new Set());
  const box = useRef<HTMLDivElement>(null);
  const lines = useLines(draft.entries, draft.load_order, filter, sort, group);
  const rows = useMemo(() => lines.flatMap((line) => ("entry" in line ? [line.entry] : [])), [lines]);
  const beside = params.get("sheet") !== null;
  const shape = useMemo(() => shapeOf(columns, beside), [columns, beside]);
  const list = useVirtualizer({ count: lines.length, getScrollElement: () => box.current, estimateSize: () => shape.row, overscan: 12 });
  useEffect(() => list.measure(), [list, shape]);
  const chosen = draft.entries.filter((entry) => marked.has(entry.mod));
  const toggle = (mod: string) => setMarked((before) => (before.has(mod) ? new Set([...before].filter((one) => one !== mod)) : new Set([...before, mod])));
  const step = (by: number) => {
    const next = rows[Math.min(Math.max(rows.findIndex((row) => row.mod === current) + by, 0), rows.length - 1)];
    if (!next) return;
    open({ sel: next.mod, sheet: beside ? "mod" : null });
    list.scrollToIndex(lines.findIndex((line) => "entry" in line && line.entry === next));
  };
  const movable = mayEdit && sort === "order" && !filter && !group;
  const move = (mod: string, to: number) => {
    const order = rows.map((row) => row.mod).filter((one) => one !== mod);
    order.splice(Math.min(Math.max(to, 0), order.length), 0, mod);
    desk.make({ do: "set-load-order", mods: order });
  };
  // Rows have no handlers of their own: what happens in one is heard here.
  const of = (event: { target: EventTarget }) => (event.target as Element).closest<HTMLElement>("[data-entry]")?.dataset.entry ?? "";
  const change = (event: ChangeEvent<HTMLDivElement> | FormEvent<HTMLDivElement>) => {
    const input = event.target as HTMLInputElement;
    const mod = of(event);
    if (input.name === "marked") toggle(mod);
    else if (input.checked) desk.make({ do: "set-enabled", mod, enabled: true });
    else desk.turnOff([mod]);
  };
  const look = (event: MouseEvent) => {
    const mod = of(event);
    if (mod && !(event.target as Element).closest("[data-own]")) open({ sheet: "mod", sel: mod });
  };
  const drag = {
    onDragStart: (event: DragEvent) => event.dataTransfer.setData("text/convoy-entry", of(event)),
    onDragOver: (event: DragEvent) => event.preventDefault(),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      const [mod, onto] = [event.dataTransfer.getData("text/convoy-entry"), of(event)];
      if (mod && onto && mod !== onto) move(mod, rows.findIndex((row) => row.mod === onto));
    },
  };
  const shift = (by: number) => movable && current && move(current, rows.findIndex((row) => row.mod === current) + by);
  useKeys({ j: () => step(1), k: () => step(-1), J: () => shift(1), K: () => shift(-1), x: () => current && toggle(current), Enter: () => current && open({ sheet: "mod" }) });
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.25, px: 2, py: 1, flexWrap: "wrap", minHeight: 54 }}>
        {chosen.length > 0 ? <Chosen desk={desk} chosen={chosen} onNone={() => setMarked(new Set())} /> : <Tools desk={desk} beside={beside} filter={filter} sort={sort} group={group} columns={columns} onColumns={(keys) => (keepColumns(keys), setColumns(keys))} />}
      </Box>
      {draft.entries.length === 0 ? <Nothing desk={desk} /> : (
        <Box role="table" aria-label="Waybill" aria-rowcount={rows.length + 1} sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", overflowX: "auto", bgcolor: "background.paper", ...SHEET }}>
          <Head shape={shape} all={rows.length > 0 && rows.every((row) => marked.has(row.mod))} mayEdit={mayEdit} onAll={(all) => setMarked(new Set(all ? rows.map((row) => row.mod) : []))} />
          <Box ref={box} sx={{ flex: 1, minHeight: 0, overflowY: "auto", minWidth: 760 }}>
            <div role="rowgroup" style={{ height: list.getTotalSize(), position: "relative" }} onClick={look} onChange={change} {...(movable && drag)}>
              {list.getVirtualItems().map((item) => {
                const line = lines[item.index];
                if (!line) return null;
                if ("head" in line) return <GroupHead key={`group ${line.head}`} top={item.start} height={shape.row} head={line.head} number={line.size} />;
                const { entry } = line;
                return <WaybillRow key={entry.mod} top={item.start} index={item.index} entry={entry} shape={shape} mayEdit={mayEdit} movable={movable} current={entry.mod === current} marked={marked.has(entry.mod)} refused={refused.includes(entry.mod)} finding={marks.get(entry.mod)} />;
              })}
            </div>
            {rows.length === 0 && <Typography sx={{ p: 2 }}>No entry matches this filter.</Typography>}
          </Box>
          <Foot desk={desk} />
        </Box>
      )}
    </>
  );
}

/** The lines to draw: entries filtered and sorted, and where they are grouped a heading before each group. */
function useLines(entries: EntryRow[], loadOrder: string[], filter: string, sort: string, group: string): Line[] {
  return useMemo(() => {
    const found = filter ? entries.filter((entry) => matches(entry, filter)) : [...entries];
    const place = new Map(loadOrder.map((mod, index) => [mod, index]));
    const last = loadOrder.length;
    if (sort === "order") found.sort((one, two) => (place.get(one.mod) ?? last) - (place.get(two.mod) ?? last));
    else if (sort !== "added") found.sort((SORTS[sort] ?? SORTS.chosen)?.[1]);
    const of = GROUPS[group]?.[1];
    if (!of) return found.map((entry) => ({ entry }));
    const groups = new Map<string, EntryRow[]>();
    for (const entry of found) groups.set(of(entry), [...(groups.get(of(entry)) ?? []), entry]);
    return [...groups].sort(([one], [two]) => one.localeCompare(two)).flatMap(([head, members]): Line[] => [{ head, size: members.length }, ...members.map((entry) => ({ entry }))]);
  }, [entries, loadOrder, filter, sort, group]);
}

function Nothing({ desk }: { desk: Desk }) {
  return (
    <Empty title="Nothing on the waybill yet">
      <Typography gutterBottom>Mods are added from the catalogue. What they need comes along by itself, and says why it came.</Typography>
      {desk.mayEdit && (
        <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
          <Button variant="contained" onClick={() => desk.open({ look: "catalogue" })}>Look through the catalogue</Button>
          <Button variant="outlined" onClick={() => desk.open({ sheet: "paste" })}>Paste a list</Button>
          <Button variant="outlined" onClick={() => desk.open({ sheet: "bring" })}>Bring a file</Button>
        </Box>
      )}
    </Empty>
  );
}

function Head({ shape, all, mayEdit, onAll }: { shape: Shape; all: boolean; mayEdit: boolean; onAll: (all: boolean) => void }) {
  return (
    <Box role="row" sx={{ display: "grid", gridTemplateColumns: shape.template, columnGap: 1, alignItems: "center", px: 2, height: 32, minWidth: 760, borderTop: 2, borderBottom: 1, borderColor: "text.primary", flex: "none", fontSize: "0.8rem", fontWeight: 600, color: "text.secondary" }}>
      <span role="columnheader">{mayEdit && <label className="own"><input type="checkbox" className="box" checked={all} onChange={(event) => onAll(event.target.checked)} aria-label="Select all entries" /></label>}</span>
      <span role="columnheader" aria-label="Marks" />
      <span role="columnheader" aria-label="Emblem" />
      <span role="columnheader">Mod</span>
      {shape.columns.map((column) => <Box key={column.key} component="span" role="columnheader" sx={{ textAlign: column.right ? "right" : undefined }}>{column.title}</Box>)}
      <span role="columnheader">On</span>
    </Box>
  );
}

function GroupHead({ top, height, head, number }: { top: number; height: number; head: string; number: number }) {
  return (
    <Box role="row" data-group={head} sx={{ position: "absolute", top, left: 0, right: 0, height, display: "flex", alignItems: "end", px: 2, pb: 0.5, borderBottom: 1, borderColor: "text.primary" }}>
      <Typography role="cell" variant="h3">{head} <Mono>{number}</Mono></Typography>
    </Box>
  );
}

/** The worst open finding of each entry that it concerns first. */
function useMarks(pack: string): Map<string, Finding> {
  const findings = useFindings(pack).data?.findings;
  return useMemo(() => {
    const marks = new Map<string, Finding>();
    for (const finding of findings ?? []) {
      const [mod] = finding.mods;
      if (mod && finding.accepted === null && finding.code !== "newer-build" && !marks.has(mod)) marks.set(mod, finding);
    }
    return marks;
  }, [findings]);
}

function Foot({ desk }: { desk: Desk }) {
  const { totals, release } = desk.draft;
  const along = totals.brought_along ? `, ${totals.brought_along} of them brought along` : "";
  const off = totals.off ? `, ${totals.off} turned off` : "";
  return (
    <Box sx={{ display: "flex", columnGap: 2, px: 2, py: 0.75, flex: "none", borderTop: 2, borderColor: "text.primary", flexWrap: "wrap", minWidth: 760, fontSize: "0.88rem" }}>
      <span><b>{count(totals.entries, "entry", "entries")}</b>{along}{off}</span>
      <Box component="span" sx={{ flex: 1 }} />
      <span>download <Mono strong>{size(totals.download)}</Mono>{release !== null && <>, <Mono>{size(totals.shared)}</Mono> as in {release}</>}</span>
      <span>on disk <Mono strong>{size(totals.disk)}</Mono></span>
      <span>memory about <Mono strong>{gibibytes(totals.memory_mib)}</Mono></span>
    </Box>
  );
}
