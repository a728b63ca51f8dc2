// Above the waybill: filter, order, groups, columns, taking the list away; and what can be done to selected entries.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Link from "@mui/material/Link";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";
import { Link as To } from "react-router";
import type { Edit } from "../api/queries";
import type { EntryRow } from "../api/schema";
import { Glyph, Mono } from "../parts/common";
import { count } from "../parts/words";
import { several } from "./ActSheets";
import { COLUMNS, GROUPS, SORTS } from "./columns";
import type { Desk } from "./desk";
import { SIDES } from "./EntrySheet";

/** A labelled button with a list below it; it closes when one of the list is taken, unless that is a box to tick. */
function Drop({ label, children }: { label: string; children: (close: () => void) => ReactNode[] }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button color="inherit" onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="menu" endIcon={<Glyph path="M4 6L8 10L12 6" large={12} />}>{label}</Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>{children(() => setAnchor(null))}</Menu>
    </>
  );
}

interface ToolsProps {
  desk: Desk;
  /** Whether a sheet is open beside, so that there is little room. */
  beside: boolean;
  filter: string;
  sort: string;
  group: string;
  columns: string[];
  onColumns: (keys: string[]) => void;
}

export function Tools({ desk, beside, filter, sort, group, columns, onColumns }: ToolsProps) {
  const { draft, open, mayEdit } = desk;
  const sorts = [...(draft.ordered ? [["order", "in load order"]] : []), ...Object.entries(SORTS).map(([key, [words]]) => [key, words])];
  const toggle = (key: string) => onColumns(columns.includes(key) ? columns.filter((one) => one !== key) : [...columns, key]);
  const copy = async (as: string) => navigator.clipboard.writeText(await (await fetch(`/api/packs/${draft.slug}/list?as=${as}`)).text());
  return (
    <>
      <TextField placeholder="Filter the waybill" value={filter} onChange={(event) => open({ filter: event.target.value })} sx={{ width: 170 }} slotProps={{ htmlInput: { "aria-label": "Filter the waybill" } }} />
      <TextField select value={sort} onChange={(event) => open({ sort: event.target.value })} sx={{ width: 150 }} slotProps={{ htmlInput: { "aria-label": "Order of the waybill" } }}>
        {sorts.map(([key, words]) => <MenuItem key={key} value={key}>{words}</MenuItem>)}
      </TextField>
      <TextField select value={group} onChange={(event) => open({ group: event.target.value })} sx={{ width: 150 }} slotProps={{ htmlInput: { "aria-label": "Groups of the waybill" }, select: { displayEmpty: true } }}>
        <MenuItem value="">not grouped</MenuItem>
        {Object.entries(GROUPS).map(([key, [words]]) => <MenuItem key={key} value={key}>{words}</MenuItem>)}
      </TextField>
      <Drop label="Columns">
        {() => COLUMNS.map((column) => (
          <MenuItem key={column.key} dense onClick={() => toggle(column.key)}>
            <Checkbox size="small" checked={columns.includes(column.key)} sx={{ p: 0.25, mr: 1 }} tabIndex={-1} />
            <ListItemText>{column.title}</ListItemText>
          </MenuItem>
        ))}
      </Drop>
      <Drop label="Take away">
        {(close) => [
          <MenuItem key="print" component="a" href={`/packs/${draft.slug}/print`} target="_blank" onClick={close}>Printable page</MenuItem>,
          <MenuItem key="csv" component="a" href={`/api/packs/${draft.slug}/list?as=csv`} download onClick={close}>CSV file</MenuItem>,
          <MenuItem key="markdown" onClick={() => (void copy("markdown"), close())}>Copy as Markdown</MenuItem>,
        ]}
      </Drop>
      <Box sx={{ flex: 1, minWidth: 0, display: "flex", gap: 1, justifyContent: "flex-end", alignItems: "baseline" }}>
        {!beside && <Typography variant="body2" color="textSecondary" noWrap>
          {draft.game_name} <Mono>{draft.game_version}</Mono>{draft.loader && <>, {draft.loader_name} <Mono>{draft.loader.version}</Mono></>}
        </Typography>}
        {mayEdit && !beside && <Link component={To} variant="body2" to={`/packs/${draft.slug}/check?look=fit`}>move</Link>}
        {mayEdit && !beside && <Link component="button" variant="body2" onClick={() => open({ sheet: "details", sel: null })}>about</Link>}
      </Box>
      {mayEdit && <Button variant="contained" onClick={() => open({ look: "catalogue", sheet: null, sel: null })}>Add mods</Button>}
    </>
  );
}

/** What can be done to all that are selected. */
export function Chosen({ desk, chosen, onNone }: { desk: Desk; chosen: EntryRow[]; onNone: () => void }) {
  const { make, open } = desk;
  const mods = chosen.map((entry) => entry.mod);
  const all = (edit: (entry: EntryRow) => Edit | null, label: string) => {
    const edits = chosen.flatMap((entry) => edit(entry) ?? []);
    if (edits.length) make(several(edits, `${label} ${count(edits.length, "entry", "entries")}`));
    onNone();
  };
  const sheet = (name: string) => (open({ sheet: name, sel: mods.join(",") }), onNone());
  const optional = (entry: EntryRow, given: boolean): Edit => ({ do: "set-optional", mod: entry.mod, optional: given, by_default: true, one_of: "" });
  const more: [string, () => void][] = [
    ["Newest build that fits", () => all((entry) => (entry.pin === null && entry.newest && entry.newest !== entry.version ? { do: "set-build", mod: entry.mod, version: entry.newest } : null), "raised")],
    ["Pin, because …", () => sheet("pin")],
    ["Unpin", () => all((entry) => (entry.pin === null ? null : { do: "set-pin", mod: entry.mod, pin: null }), "unpinned")],
    ["Optional for members", () => all((entry) => optional(entry, true), "made optional:")],
    ["Offer as one of a group …", () => sheet("group")],
    ["Part of every rig", () => all((entry) => optional(entry, false), "made part of every rig:")],
    ["On client and server", () => all((entry) => ({ do: "set-sides", mod: entry.mod, sides: SIDES.both }), "put on both sides:")],
    ["On the client only", () => all((entry) => ({ do: "set-sides", mod: entry.mod, sides: SIDES.client }), "put on the client only:")],
    ["On the server only", () => all((entry) => ({ do: "set-sides", mod: entry.mod, sides: SIDES.server }), "put on the server only:")],
    ["Side as the mod says", () => all((entry) => ({ do: "set-sides", mod: entry.mod, sides: null }), "took back the sides of")],
    ["Keep in any case", () => all((entry) => (entry.chosen ? null : { do: "set-chosen", mod: entry.mod, chosen: true }), "chose")],
    ["Put under a label …", () => sheet("label")],
    ["Note …", () => sheet("note")],
  ];
  return (
    <>
      <Typography sx={{ fontWeight: 700 }}>{count(chosen.length, "entry", "entries")} selected</Typography>
      <Button variant="outlined" onClick={() => all((entry) => (entry.enabled ? null : { do: "set-enabled", mod: entry.mod, enabled: true }), "turned on")}>Turn on</Button>
      <Button variant="outlined" onClick={() => (desk.turnOff(mods), onNone())}>Turn off</Button>
      <Button variant="outlined" onClick={() => sheet("remove")}>Remove</Button>
      <Button variant="outlined" onClick={() => sheet("copy")}>Copy to another pack</Button>
      <Drop label="Change">{(close) => more.map(([words, act]) => <MenuItem key={words} onClick={() => (close(), act())}>{words}</MenuItem>)}</Drop>
      <Button onClick={onNone}>Select none</Button>
    </>
  );
}
