// The waybill: the pack as one dense, ruled table on paper, with a running total at its foot.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import MenuItem from "@mui/material/MenuItem";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { Edit } from "../api/queries";
import type { EntryRow } from "../api/schema";
import { Empty, Mono } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { useKeys } from "../parts/keys";
import { GradeMark } from "../parts/marks";
import { count, gibibytes, REACH, sides, size } from "../parts/words";
import type { Desk } from "./Assemble";

// With the whole width each entry has one line; beside an open sheet the reason goes below the name.
const WHOLE = { row: 36, columns: "34px 20px 30px minmax(190px, 2fr) minmax(200px, 3fr) 150px 64px 92px 78px 50px" };
const BESIDE = { row: 42, columns: "34px 20px 30px minmax(170px, 1fr) 110px 56px 84px 76px 50px" };
type Shape = typeof WHOLE;

const SORTS: Record<string, [string, (one: EntryRow, two: EntryRow) => number]> = {
  name: ["by name", (one, two) => one.name.localeCompare(two.name)],
  chosen: ["chosen first", (one, two) => Number(two.chosen) - Number(one.chosen) || one.name.localeCompare(two.name)],
  size: ["largest first", (one, two) => two.size - one.size],
  added: ["as added", () => 0],
};

function matches(entry: EntryRow, filter: string): boolean {
  const words = `${entry.name} ${entry.mod} ${entry.version} ${entry.categories.join(" ")} ${entry.reach} ${sides(entry.sides)}`;
  return words.toLowerCase().includes(filter.toLowerCase());
}

function several(edits: Edit[], label: string): Edit {
  return { do: "several", edits: edits as never, label };
}

export function Waybill({ desk, refused }: { desk: Desk; refused: string[] }) {
  const { draft, mayEdit, make, open } = desk;
  const [params] = useSearchParams();
  const filter = params.get("filter") ?? "";
  const sort = params.get("sort") ?? "chosen";
  const current = params.get("sel") ?? "";
  const [marked, setMarked] = useState<Set<string>>(new Set());
  const box = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => {
    const found = draft.entries.filter((entry) => matches(entry, filter));
    return sort === "added" ? found : [...found].sort((SORTS[sort] ?? SORTS.chosen)?.[1]);
  }, [draft.entries, filter, sort]);
  const shape = params.get("sheet") ? BESIDE : WHOLE;
  const list = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => shape.row, overscan: 12 });
  useEffect(() => list.measure(), [list, shape]);
  const chosen = draft.entries.filter((entry) => marked.has(entry.mod));
  const toggle = (mod: string) => setMarked((before) => (before.has(mod) ? new Set([...before].filter((one) => one !== mod)) : new Set([...before, mod])));
  const step = (by: number) => {
    const at = rows.findIndex((row) => row.mod === current);
    const next = rows[Math.min(Math.max(at + by, 0), rows.length - 1)];
    if (!next) return;
    open({ sel: next.mod, sheet: params.get("sheet") ? "mod" : null });
    list.scrollToIndex(rows.indexOf(next));
  };
  useKeys({
    j: () => step(1),
    k: () => step(-1),
    x: () => current && toggle(current),
    Enter: () => current && open({ sheet: "mod" }),
  });
  const turn = (enabled: boolean) => {
    const edits = chosen.filter((entry) => entry.enabled !== enabled).map((entry): Edit => ({ do: "set-enabled", mod: entry.mod, enabled }));
    if (edits.length) make(several(edits, `turned ${enabled ? "on" : "off"} ${count(edits.length, "entry", "entries")}`));
    setMarked(new Set());
  };
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 2, py: 1, flexWrap: "wrap", minHeight: 54 }}>
        {chosen.length > 0 ? (
          <>
            <Typography sx={{ fontWeight: 700 }}>{count(chosen.length, "entry", "entries")} selected</Typography>
            <Button variant="outlined" onClick={() => turn(true)}>Turn on</Button>
            <Button variant="outlined" onClick={() => turn(false)}>Turn off</Button>
            <Button variant="outlined" onClick={() => (open({ sheet: "remove", sel: chosen.map((entry) => entry.mod).join(",") }), setMarked(new Set()))}>Remove</Button>
            <Button onClick={() => setMarked(new Set())}>Select none</Button>
          </>
        ) : (
          <>
            <TextField placeholder="Filter the waybill" value={filter} onChange={(event) => open({ filter: event.target.value })} sx={{ width: 220 }} slotProps={{ htmlInput: { "aria-label": "Filter the waybill" } }} />
            <TextField select value={sort} onChange={(event) => open({ sort: event.target.value })} sx={{ width: 140 }} slotProps={{ htmlInput: { "aria-label": "Order of the waybill" } }}>
              {Object.entries(SORTS).map(([key, [words]]) => (
                <MenuItem key={key} value={key}>{words}</MenuItem>
              ))}
            </TextField>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography variant="body2" color="textSecondary" noWrap>
                {draft.game_name} <Mono>{draft.game_version}</Mono>, {draft.loader_name} <Mono>{draft.loader?.version}</Mono>
              </Typography>
            </Box>
            {mayEdit && <Button variant="contained" onClick={() => open({ sheet: "catalogue", sel: null })}>Add mods</Button>}
          </>
        )}
      </Box>
      {draft.entries.length === 0 ? (
        <Empty title="Nothing on the waybill yet">
          <Typography gutterBottom>Mods are added from the catalogue. What they need comes along by itself, and says why it came.</Typography>
          {mayEdit && <Button variant="contained" onClick={() => open({ sheet: "catalogue" })}>Look through the catalogue</Button>}
        </Empty>
      ) : (
        <Box role="table" aria-label="Waybill" aria-rowcount={rows.length + 1} sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column", overflowX: "auto", bgcolor: "background.paper" }}>
          <Box role="row" sx={{ display: "grid", gridTemplateColumns: shape.columns, columnGap: 1, alignItems: "center", px: 2, height: 32, minWidth: 760, borderTop: 2, borderBottom: 1, borderColor: "text.primary", flex: "none", fontSize: "0.8rem", fontWeight: 600, color: "text.secondary" }}>
            <span role="columnheader">{mayEdit && <Checkbox size="small" sx={{ p: 0.25 }} checked={rows.length > 0 && rows.every((row) => marked.has(row.mod))} onChange={(event) => setMarked(new Set(event.target.checked ? rows.map((row) => row.mod) : []))} slotProps={{ input: { "aria-label": "Select all entries" } }} />}</span>
            <span role="columnheader" aria-label="Marks" />
            <span role="columnheader" aria-label="Emblem" />
            <span role="columnheader">Mod</span>
            {shape === WHOLE && <span role="columnheader">About, and why it is here</span>}
            <span role="columnheader">Build</span>
            <span role="columnheader">Side</span>
            <span role="columnheader">Reach</span>
            <Box component="span" role="columnheader" sx={{ textAlign: "right" }}>Size</Box>
            <span role="columnheader">On</span>
          </Box>
          <Box ref={box} sx={{ flex: 1, minHeight: 0, overflowY: "auto", minWidth: 760 }}>
            <Box role="rowgroup" sx={{ height: list.getTotalSize(), position: "relative" }}>
              {list.getVirtualItems().map((item) => {
                const entry = rows[item.index];
                return entry && <Row key={entry.mod} top={item.start} index={item.index} entry={entry} desk={desk} shape={shape} current={entry.mod === current} marked={marked.has(entry.mod)} onMark={() => toggle(entry.mod)} refused={refused.includes(entry.mod)} />;
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
}

function MarginMark({ entry, refused }: { entry: EntryRow; refused: boolean }) {
  if (refused) return <GradeMark grade="stop" label="The last change here was refused" />;
  if (!entry.fits && entry.enabled) return <GradeMark grade="stop" label={`${entry.name} ${entry.reason || "has no fitting build"}`} />;
  if (entry.by_hand) return <GradeMark grade="caution" label="Members must fetch this file by hand" />;
  if (entry.note) return <GradeMark grade="note" label={entry.note} />;
  return null;
}

function why(entry: EntryRow): string {
  if (!entry.enabled) return "turned off";
  if (!entry.chosen) return entry.required_by.length ? `needed by ${entry.required_by.join(", ")}` : "came along, and nothing needs it now";
  return [entry.optional ? "optional" : "", entry.pin !== null ? `pinned${entry.pin ? `: ${entry.pin}` : ""}` : "", entry.summary].filter(Boolean).join(" · ");
}

function Row({ top, index, entry, desk, shape, current, marked, onMark, refused }: RowProps) {
  const faded = entry.enabled ? 1 : 0.6;
  return (
    <Box
      role="row"
      aria-rowindex={index + 2}
      aria-selected={current}
      data-entry={entry.mod}
      onClick={() => desk.open({ sheet: "mod", sel: entry.mod })}
      sx={{
        position: "absolute", top, left: 0, right: 0, height: shape.row, display: "grid", gridTemplateColumns: shape.columns, columnGap: 1, alignItems: "center", px: 2, cursor: "pointer",
        borderBottom: 1, borderColor: "divider", bgcolor: current || marked ? "selected" : undefined, "&:hover": { bgcolor: "selected" },
      }}
    >
      <span role="cell" onClick={(event) => event.stopPropagation()}>
        {desk.mayEdit && <Checkbox size="small" sx={{ p: 0.25 }} checked={marked} onChange={onMark} slotProps={{ input: { "aria-label": `Select ${entry.name}` } }} />}
      </span>
      <Box component="span" role="cell" sx={{ display: "flex" }}><MarginMark entry={entry} refused={refused} /></Box>
      <Box role="cell" sx={{ pl: entry.chosen ? 0 : 1 }}><Emblem slug={entry.mod} large={entry.chosen ? 23 : 18} hollow={!entry.chosen || !entry.enabled} /></Box>
      <Box role="cell" sx={{ minWidth: 0, opacity: faded, lineHeight: 1.2 }}>
        <Typography component="button" noWrap sx={{ all: "unset", cursor: "pointer", fontWeight: entry.chosen ? 600 : 400, "&:focus-visible": { outline: "2px solid" } }}>{entry.name}</Typography>
        {shape === BESIDE && <Typography variant="caption" color="textSecondary" component="div" noWrap sx={{ lineHeight: 1.25 }} title={why(entry)}>{why(entry)}</Typography>}
      </Box>
      {shape === WHOLE && <Typography role="cell" variant="body2" color="textSecondary" noWrap title={why(entry)} sx={{ opacity: faded }}>{why(entry)}</Typography>}
      <Box role="cell" sx={{ minWidth: 0, opacity: faded, lineHeight: 1.2 }}>
        <Mono strong>{entry.version ?? "any"}</Mono>
        {entry.newest && entry.version && entry.newest !== entry.version && (
          <Tooltip title={`A newer build fits: ${entry.newest}`}>
            <Typography variant="caption" color="secondary" component={shape === WHOLE ? "span" : "div"} noWrap sx={{ lineHeight: 1.2, ml: shape === WHOLE ? 1 : 0 }}>newer: <Mono>{entry.newest}</Mono></Typography>
          </Tooltip>
        )}
      </Box>
      <Typography role="cell" variant="body2" sx={{ opacity: faded }}>{sides(entry.sides)}</Typography>
      <Typography role="cell" variant="body2" sx={{ opacity: faded }}>{REACH[entry.reach] ?? entry.reach}</Typography>
      <Box role="cell" sx={{ textAlign: "right", opacity: faded, whiteSpace: "nowrap" }}><Mono>{size(entry.size)}</Mono></Box>
      <span role="cell" onClick={(event) => event.stopPropagation()}>
        <Switch size="small" checked={entry.enabled} disabled={!desk.mayEdit} onChange={(event) => desk.make({ do: "set-enabled", mod: entry.mod, enabled: event.target.checked })} slotProps={{ input: { "aria-label": `${entry.name} on or off` } }} />
      </span>
    </Box>
  );
}

function Foot({ desk }: { desk: Desk }) {
  const { totals } = desk.draft;
  const along = totals.brought_along ? `, ${totals.brought_along} of them brought along` : "";
  const off = totals.off ? `, ${totals.off} turned off` : "";
  return (
    <Box sx={{ display: "flex", gap: 3, px: 2, py: 0.75, flex: "none", borderTop: 2, borderColor: "text.primary", flexWrap: "wrap", minWidth: 760, fontSize: "0.88rem" }}>
      <span><b>{count(totals.entries, "entry", "entries")}</b>{along}{off}</span>
      <Box component="span" sx={{ flex: 1 }} />
      <span>download <Mono strong>{size(totals.download)}</Mono></span>
      <span>on disk <Mono strong>{size(totals.disk)}</Mono></span>
      <span>memory about <Mono strong>{gibibytes(totals.memory_mib)}</Mono></span>
    </Box>
  );
}
