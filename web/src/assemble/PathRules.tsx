// Path rules: which files of an archive are taken, tried live on its tree before anybody gets them.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo, useState } from "react";
import { usePathRules } from "../api/queries";
import type { EntryRow, PlacedFile } from "../api/schema";
import { Mono, Problem } from "../parts/common";
import { count, size } from "../parts/words";
import type { Desk } from "./desk";

const globs = (text: string) => text.split("\n").map((line) => line.trim()).filter(Boolean);

export function PathRules({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [open, setOpen] = useState(entry.keep.length + entry.drop.length > 0);
  if (!open) return <Button onClick={() => setOpen(true)} sx={{ px: 0 }}>Take only some of its files</Button>;
  return <Rules entry={entry} desk={desk} />;
}

function Rules({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [keep, setKeep] = useState(entry.keep.join("\n"));
  const [drop, setDrop] = useState(entry.drop.join("\n"));
  const [tried, setTried] = useState({ keep, drop });
  useEffect(() => {
    const timer = setTimeout(() => setTried({ keep, drop }), 200);
    return () => clearTimeout(timer);
  }, [keep, drop]);
  const files = usePathRules(desk.draft.slug, entry.mod, entry.version ?? "", globs(tried.keep), globs(tried.drop));
  const changed = globs(keep).join("\n") !== entry.keep.join("\n") || globs(drop).join("\n") !== entry.drop.join("\n");
  const leave = (path: string, folder: boolean, taken: boolean) => {
    const glob = folder ? `${path}/**` : path;
    const rules = globs(drop);
    setDrop((taken ? [...rules, glob] : rules.filter((rule) => rule !== glob)).join("\n"));
  };
  if (files.data?.whole) return <Typography variant="body2" color="textSecondary" sx={{ my: 1 }}>This kind of mod is placed as a whole archive, so there are no files to choose from.</Typography>;
  return (
    <Box component="fieldset" sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.25, my: 1, minWidth: 0 }}>
      <Typography component="legend" variant="h3" sx={{ px: 0.5 }}>Path rules</Typography>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
        <TextField multiline minRows={2} label="Take only" placeholder="all" value={keep} onChange={(event) => setKeep(event.target.value)} />
        <TextField multiline minRows={2} label="Leave out" placeholder="Docs/**" value={drop} onChange={(event) => setDrop(event.target.value)} />
      </Box>
      <Typography variant="caption" color="textSecondary">One on a line. * stands for anything in a name, ** for folders too.</Typography>
      <Problem error={files.error} />
      {files.data && <Tree files={files.data.files} onLeave={leave} />}
      <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
        <Button variant="contained" disabled={!changed || files.isError} onClick={() => desk.make({ do: "set-path-rules", mod: entry.mod, keep: globs(keep), drop: globs(drop) })}>Keep these rules</Button>
        {entry.keep.length + entry.drop.length > 0 && <Button onClick={() => (setKeep(""), setDrop(""), desk.make({ do: "set-path-rules", mod: entry.mod, keep: [], drop: [] }))}>Take everything</Button>}
      </Box>
    </Box>
  );
}

interface Folder {
  path: string;
  name: string;
  depth: number;
  file: PlacedFile | null;
  taken: number;
  all: number;
}

/** The archive's tree as rows, each folder with how many of its files are taken. */
function rowsOf(files: PlacedFile[]): Folder[] {
  const rows = new Map<string, Folder>();
  for (const file of [...files].sort((one, two) => one.path.localeCompare(two.path))) {
    const parts = file.path.split("/");
    parts.forEach((name, depth) => {
      const path = parts.slice(0, depth + 1).join("/");
      const row = rows.get(path) ?? { path, name, depth, file: depth === parts.length - 1 ? file : null, taken: 0, all: 0 };
      row.all += 1;
      row.taken += file.target ? 1 : 0;
      rows.set(path, row);
    });
  }
  return [...rows.values()];
}

function Tree({ files, onLeave }: { files: PlacedFile[]; onLeave: (path: string, folder: boolean, taken: boolean) => void }) {
  const rows = useMemo(() => rowsOf(files), [files]);
  const taken = files.filter((file) => file.target);
  const bytes = taken.reduce((sum, file) => sum + file.size, 0);
  return (
    <>
      <Typography variant="body2" role="status" sx={{ my: 0.75 }}>
        {count(taken.length, "file")} of {files.length} taken, <Mono>{size(bytes)}</Mono>
      </Typography>
      <Box component="ul" aria-label="Files of the archive" tabIndex={0} sx={{ listStyle: "none", m: 0, p: 0, maxHeight: 220, overflow: "auto", fontSize: "0.82rem" }}>
        {rows.slice(0, 400).map((row) => (
          <Box component="li" key={row.path} data-path={row.path} sx={{ display: "flex", alignItems: "center", gap: 0.5, pl: row.depth * 2, opacity: row.taken ? 1 : 0.55 }}>
            <Checkbox size="small" sx={{ p: 0.1 }} checked={row.taken > 0} indeterminate={row.taken > 0 && row.taken < row.all} onChange={() => onLeave(row.path, row.file === null, row.taken > 0)} slotProps={{ input: { "aria-label": `Take ${row.path}` } }} />
            <Box component="span" sx={{ flex: "none", textDecoration: row.taken ? undefined : "line-through" }}>{row.name}{row.file ? "" : "/"}</Box>
            <Box component="span" sx={{ flex: 1, minWidth: 0, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap", color: "text.secondary" }} title={row.file?.target}>{row.file?.target ? `to ${row.file.target}` : ""}</Box>
            {row.file && <Mono>{size(row.file.size)}</Mono>}
          </Box>
        ))}
      </Box>
    </>
  );
}
