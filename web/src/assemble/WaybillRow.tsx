// One entry of the waybill. Thousands may scroll by, so a row is plain elements that are drawn again only when what they
// show has changed; its looks are in SHEET, and what is done with it is heard by the sheet as a whole.
import { memo } from "react";
import type { EntryRow, Finding } from "../api/schema";
import { Emblem } from "../parts/Emblem";
import { GradeMark } from "../parts/marks";
import { MONO } from "../theme";
import { why, type Column } from "./columns";

export interface Shape {
  row: number;
  template: string;
  columns: Column[];
  beside: boolean;
}

const FOCUS = { outline: "2px solid", outlineOffset: 2 };

/** How rows look: styles of the sheet that holds them. */
export const SHEET = {
  "& .entry": {
    position: "absolute", left: 0, right: 0, display: "grid", columnGap: 1, alignItems: "center", px: 2, cursor: "pointer", borderBottom: 1, borderColor: "divider", lineHeight: 1.2, fontSize: "0.88rem",
    "&:hover, &.lit": { bgcolor: "selected" },
    "&[draggable=true]": { cursor: "grab" },
    "& > .fact": { minWidth: 0, overflow: "hidden", whiteSpace: "nowrap", textOverflow: "ellipsis" },
    "& > .right": { textAlign: "right" },
    "&.off > .fact": { opacity: 0.6 },
    "& .name": { all: "unset", cursor: "pointer", display: "inline-block", maxWidth: "100%", overflow: "hidden", textOverflow: "ellipsis", fontSize: "1rem", verticalAlign: "bottom", "&:focus-visible": { outline: "2px solid", outlineOffset: -2 } },
    "&.chosen .name": { fontWeight: 600 },
    "& .quiet": { color: "text.secondary" },
    "& .why": { display: "block", color: "text.secondary", fontSize: "0.75rem", overflow: "hidden", textOverflow: "ellipsis" },
    "& .mono": { fontFamily: MONO, fontSize: "0.96em" },
    "& .strong": { fontWeight: 600, fontSize: "1.05em" },
    "& .newer": { ml: 1, fontSize: "0.75rem", color: "secondary.main" },
  },
  // A label takes the whole cell, so that boxes and switches need no aiming.
  "& .own": { display: "flex", alignItems: "center", alignSelf: "stretch", cursor: "pointer" },
  "& .box": {
    appearance: "none", flex: "none", m: 0, width: 16, height: 16, border: 2, borderColor: "text.secondary", borderRadius: "3px", position: "relative", cursor: "inherit",
    "&:checked": { bgcolor: "primary.main", borderColor: "primary.main" },
    "&:checked::after": { content: '""', position: "absolute", left: "3px", top: "-1px", width: 4, height: 9, border: "solid", borderColor: "background.paper", borderWidth: "0 2px 2px 0", transform: "rotate(45deg)" },
    "&:focus-visible": FOCUS,
  },
  "& .turn": {
    appearance: "none", flex: "none", m: 0, ml: "2px", width: 26, height: 10, borderRadius: "5px", bgcolor: "text.secondary", position: "relative", cursor: "inherit",
    "&::after": { content: '""', position: "absolute", top: "-3px", left: "-2px", width: 14, height: 14, borderRadius: "50%", border: 1, borderColor: "text.secondary", bgcolor: "background.paper" },
    "&:checked": { bgcolor: "color-mix(in srgb, var(--mui-palette-primary-main) 50%, transparent)" },
    "&:checked::after": { left: "12px", bgcolor: "primary.main", borderColor: "primary.main" },
    "&:disabled": { opacity: 0.55, cursor: "default" },
    "&:focus-visible": FOCUS,
  },
} as const;

interface Props {
  top: number;
  index: number;
  entry: EntryRow;
  shape: Shape;
  mayEdit: boolean;
  movable: boolean;
  current: boolean;
  marked: boolean;
  refused: boolean;
  finding: Finding | undefined;
}

export const WaybillRow = memo(function WaybillRow({ top, index, entry, shape, mayEdit, movable, current, marked, refused, finding }: Props) {
  const classes = ["entry", entry.chosen && "chosen", !entry.enabled && "off", (current || marked) && "lit"].filter(Boolean).join(" ");
  return (
    <div role="row" aria-rowindex={index + 2} aria-selected={current} data-entry={entry.mod} draggable={movable} className={classes} style={{ top, height: shape.row, gridTemplateColumns: shape.template }}>
      <span role="cell" className="own" data-own>{mayEdit && <label className="own"><input type="checkbox" className="box" name="marked" checked={marked} readOnly aria-label={`Select ${entry.name}`} /></label>}</span>
      <span role="cell" className="own"><MarginMark entry={entry} refused={refused} finding={finding} /></span>
      <span role="cell" style={{ paddingLeft: entry.chosen ? 0 : 8 }}><Emblem slug={entry.mod} large={entry.chosen ? 23 : 18} hollow={!entry.chosen || !entry.enabled} /></span>
      <span role="cell" className="fact">
        <button type="button" className="name">{entry.name}</button>
        {shape.beside && <span className="why" title={why(entry)}>{why(entry)}</span>}
      </span>
      {shape.columns.map((column) => <span key={column.key} role="cell" className={column.right ? "fact right" : "fact"}>{column.cell(entry)}</span>)}
      <span role="cell" className="own" data-own><label className="own"><input type="checkbox" role="switch" className="turn" name="enabled" checked={entry.enabled} readOnly disabled={!mayEdit} aria-label={`${entry.name} on or off`} /></label></span>
    </div>
  );
});

function MarginMark({ entry, refused, finding }: { entry: EntryRow; refused: boolean; finding: Finding | undefined }) {
  if (refused) return <GradeMark grade="stop" label="The last change here was refused" />;
  if (finding) return <GradeMark grade={finding.grade} label={`${finding.message} ${finding.effect}`} />;
  if (entry.by_hand) return <GradeMark grade="caution" label="Members must fetch this file by hand" />;
  if (entry.note) return <GradeMark grade="note" label={entry.note} />;
  return null;
}
