// The waybill: the pack as one dense, ruled table on paper, with a running total at its foot.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState, type DragEvent } from "react";
import { useSearchParams } from "react-router";
import { useFindings } from "../api/queries";
import type { EntryRow, Finding } from "../api/schema";
import { Empty, Mono } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { useKeys } from "../parts/keys";
import { GradeMark } from "../parts/marks";
import { count, gibibytes, sides, size } from "../parts/words";
import { COLUMNS, GROUPS, keepColumns, keptColumns, SORTS, why, type Column } from "./columns";
import type { Desk } from "./desk";
import { Chosen, Tools } from "./WaybillTools";

interface Shape {
  row: number;
  template: string;
  columns: Column[];
  beside: boolean;
}

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
  const shift = (by: number) => movable && current && move(current, rows.findIndex((row) => row.mod === current) + by);
  useKeys({ j: () => step(1), k: () => step(-1), J: () => shift(1), K: () => shift(-1), x: () => current && toggle(current), Enter: () => current && open({ sheet: "mod" }) });
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.25, px: 2, py: 1, flexWrap: "wrap", minHeight: 54 }}>
        {chosen.length > 0 ? <Chosen desk={desk} chosen={chosen} onNone={() => setMarked(new Set())} /> : <Tools desk={desk} beside={beside} filter={filter} sort={sort} group={group} columns={columns} onColumns={(keys) => (keepColumns(keys), setColumns(keys))} />}
      </Box>
      {draft.entries.length === 0 ? <Nothing desk={desk} /> : (
        <Box role="table" aria-label="Waybill" aria-rowcount={rows.length + 1} sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", overflowX: "auto", bgcolor: "background.paper" }}>
          <Head shape={shape} all={rows.length > 0 && rows.every((row) => marked.has(row.mod))} mayEdit={mayEdit} onAll={(all) => setMarked(new Set(all ? rows.map((row) => row.mod) : []))} />
          <Box ref={box} sx={{ flex: 1, minHeight: 0, overflowY: "auto", minWidth: 760 }}>
            <Box role="rowgroup" sx={{ height: list.getTotalSize(), position: "relative" }}>
              {list.getVirtualItems().map((item) => {
                const line = lines[item.index];
                if (!line) return null;
                if ("head" in line) return <GroupHead key={`group ${line.head}`} top={item.start} height={shape.row} head={line.head} number={line.size} />;
                const { entry } = line;
                return <Row key={entry.mod} top={item.start} index={item.index} entry={entry} desk={desk} shape={shape} current={entry.mod === current} marked={marked.has(entry.mod)} onMark={() => toggle(entry.mod)} refused={refused.includes(entry.mod)} finding={marks.get(entry.mod)} onDrop={movable ? (mod) => move(mod, rows.indexOf(entry)) : undefined} />;
              })}
            </Box>
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
    const found = entries.filter((entry) => matches(entry, filter));
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
      <span role="columnheader">{mayEdit && <Checkbox size="small" sx={{ p: 0.25 }} checked={all} onChange={(event) => onAll(event.target.checked)} slotProps={{ input: { "aria-label": "Select all entries" } }} />}</span>
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

interface RowProps {
  top: number;
  index: number;
  entry: EntryRow;
  desk: Desk;
  shape: Shape;
  current: boolean;
  marked: boolean;
  onMark: () => void;
  refused: boolean;
  finding: Finding | undefined;
  onDrop?: (mod: string) => void;
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

function MarginMark({ entry, refused, finding }: { entry: EntryRow; refused: boolean; finding: Finding | undefined }) {
  if (refused) return <GradeMark grade="stop" label="The last change here was refused" />;
  if (finding) return <GradeMark grade={finding.grade} label={`${finding.message} ${finding.effect}`} />;
  if (entry.by_hand) return <GradeMark grade="caution" label="Members must fetch this file by hand" />;
  if (entry.note) return <GradeMark grade="note" label={entry.note} />;
  return null;
}

function Row({ top, index, entry, desk, shape, current, marked, onMark, refused, finding, onDrop }: RowProps) {
  const faded = entry.enabled ? 1 : 0.6;
  const drag = onDrop && {
    draggable: true,
    onDragStart: (event: DragEvent) => event.dataTransfer.setData("text/convoy-entry", entry.mod),
    onDragOver: (event: DragEvent) => event.preventDefault(),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      const mod = event.dataTransfer.getData("text/convoy-entry");
      if (mod && mod !== entry.mod) onDrop(mod);
    },
  };
  const turn = (enabled: boolean) => (enabled ? desk.make({ do: "set-enabled", mod: entry.mod, enabled }) : desk.turnOff([entry.mod]));
  return (
    <Box
      role="row"
      aria-rowindex={index + 2}
      aria-selected={current}
      data-entry={entry.mod}
      onClick={() => desk.open({ sheet: "mod", sel: entry.mod })}
      {...drag}
      sx={{
        position: "absolute", top, left: 0, right: 0, height: shape.row, display: "grid", gridTemplateColumns: shape.template, columnGap: 1, alignItems: "center", px: 2, cursor: onDrop ? "grab" : "pointer",
        borderBottom: 1, borderColor: "divider", bgcolor: current || marked ? "selected" : undefined, "&:hover": { bgcolor: "selected" },
      }}
    >
      <span role="cell" onClick={(event) => event.stopPropagation()}>
        {desk.mayEdit && <Checkbox size="small" sx={{ p: 0.25 }} checked={marked} onChange={onMark} slotProps={{ input: { "aria-label": `Select ${entry.name}` } }} />}
      </span>
      <Box component="span" role="cell" sx={{ display: "flex" }}><MarginMark entry={entry} refused={refused} finding={finding} /></Box>
      <Box role="cell" sx={{ pl: entry.chosen ? 0 : 1 }}><Emblem slug={entry.mod} large={entry.chosen ? 23 : 18} hollow={!entry.chosen || !entry.enabled} /></Box>
      <Box role="cell" sx={{ minWidth: 0, opacity: faded, lineHeight: 1.2 }}>
        <Typography component="button" noWrap sx={{ all: "unset", cursor: "pointer", fontWeight: entry.chosen ? 600 : 400, "&:focus-visible": { outline: "2px solid" } }}>{entry.name}</Typography>
        {shape.beside && <Typography variant="caption" color="textSecondary" component="div" noWrap sx={{ lineHeight: 1.25 }} title={why(entry)}>{why(entry)}</Typography>}
      </Box>
      {shape.columns.map((column) => <Box key={column.key} role="cell" sx={{ minWidth: 0, overflow: "hidden", whiteSpace: "nowrap", opacity: faded, textAlign: column.right ? "right" : undefined, lineHeight: 1.2 }}>{column.cell(entry)}</Box>)}
      <span role="cell" onClick={(event) => event.stopPropagation()}>
        <Switch size="small" checked={entry.enabled} disabled={!desk.mayEdit} onChange={(event) => turn(event.target.checked)} slotProps={{ input: { "aria-label": `${entry.name} on or off` } }} />
      </span>
    </Box>
  );
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
