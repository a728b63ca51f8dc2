// Fields for lists of rows: each row can be changed and taken out, and another added.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { Glyph } from "../parts/common";

interface RowsProps<T> {
  title: string;
  rows: T[];
  fresh: T;
  columns: string;
  onRows: (rows: T[]) => void;
  children: (row: T, put: (row: T) => void) => ReactNode;
}

export function Rows<T>({ title, rows, fresh, columns, onRows, children }: RowsProps<T>) {
  return (
    <Box role="group" aria-label={title || "Versions of the loader"}>
      {title && <Typography variant="h2" sx={{ borderBottom: 2, borderColor: "text.primary", mb: 1 }}>{title}</Typography>}
      {rows.map((row, index) => (
        // Rows have no name of their own until one is typed, so their place is all that tells them apart.
        <Box key={index} sx={{ display: "grid", gridTemplateColumns: `${columns} 34px`, gap: 1, mb: 1, alignItems: "start" }}>
          {children(row, (changed) => onRows(rows.map((one, at) => (at === index ? changed : one))))}
          <IconButton size="small" aria-label={`Take row ${index + 1} out`} onClick={() => onRows(rows.filter((_one, at) => at !== index))}><Glyph path="M4 4L12 12M12 4L4 12" /></IconButton>
        </Box>
      ))}
      <Button onClick={() => onRows([...rows, fresh])}>Add a row</Button>
    </Box>
  );
}

interface CellProps {
  label: string;
  value: string;
  kind?: string;
  options?: string[];
  words?: Record<string, string>;
  onValue: (value: string) => void;
}

export function Cell({ label, value, kind = "text", options, words = {}, onValue }: CellProps) {
  return (
    <TextField select={options !== undefined} type={kind} label={label} value={value} onChange={(event) => onValue(event.target.value)} slotProps={{ inputLabel: kind === "date" || options ? { shrink: true } : {}, select: { displayEmpty: true } }}>
      {options?.map((option) => <MenuItem key={option} value={option}>{words[option] ?? option}</MenuItem>)}
    </TextField>
  );
}

/** Several texts, one on a line. */
export function Lines({ label, value, onValue }: { label: string; value: string[]; onValue: (value: string[]) => void }) {
  return <TextField multiline minRows={2} label={label} value={value.join("\n")} onChange={(event) => onValue(event.target.value.split("\n").map((line) => line.trim()))} onBlur={() => onValue(value.filter(Boolean))} slotProps={{ inputLabel: { shrink: true } }} />;
}

/** A range of the game's versions, as the first one in it and the first one past it; other ranges stay as they are written. */
export function RangeCells({ scheme, versions, value, onValue }: { scheme: string; versions: string[]; value: string | null; onValue: (value: string | null) => void }) {
  const bounds = /^vers:[a-z]+\/(?:>=([^|<>=]+))?\|?(?:<([^|<>=]+))?$/.exec(value ?? `vers:${scheme}/`);
  if (!bounds) return <Cell label="Loads game versions (VERS)" value={value ?? ""} onValue={(text) => onValue(text || null)} />;
  const [, from = "", below = ""] = bounds;
  const put = (first: string, past: string) => onValue(first || past ? `vers:${scheme}/${[first && `>=${first}`, past && `<${past}`].filter(Boolean).join("|")}` : null);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
      <Cell label="Game from" value={from} options={["", ...new Set([...versions, ...(from ? [from] : [])])]} words={{ "": "the oldest" }} onValue={(first) => put(first, below)} />
      <Cell label="up to before" value={below} options={["", ...new Set([...versions, ...(below ? [below] : [])])]} words={{ "": "no end" }} onValue={(past) => put(from, past)} />
    </Box>
  );
}
