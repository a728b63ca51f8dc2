// What is done to one or many entries where something has to be asked first: turning off, copying, pinning, noting.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { previewOff, useCopyTo, usePacks, type Edit } from "../api/queries";
import type { EntryRow } from "../api/schema";
import { Problem, Sheet, Waiting } from "../parts/common";
import { EmblemChoice } from "../parts/EmblemChoice";
import { PictureChoice } from "../parts/PictureChoice";
import { count } from "../parts/words";
import type { Desk } from "./desk";

export const several = (edits: Edit[], label: string): Edit => ({ do: "several", edits: edits as never, label });

const named = (desk: Desk, mods: string[]) => mods.map((mod) => desk.draft.entries.find((entry) => entry.mod === mod)?.name ?? mod);

/** Turning off what others need: they are named, and follow if wanted. */
export function TurnOffSheet({ desk, mods }: { desk: Desk; mods: string[] }) {
  const [follow, setFollow] = useState(true);
  const preview = useQuery({
    queryKey: ["pack", desk.draft.slug, "draft", "preview-off", desk.draft.revision, mods],
    queryFn: () => previewOff(desk.draft.slug, mods),
    staleTime: Infinity,
    retry: false,
  });
  const turnOff = () => {
    const edit = preview.data?.edit;
    if (edit?.do !== "several") return;
    const edits = (edit.edits as Edit[]).filter((one) => follow || ("mod" in one && mods.includes(one.mod)));
    desk.make(follow ? (edit as Edit) : several(edits, `turned off ${named(desk, mods).slice(0, 3).join(", ")}`));
    desk.close();
  };
  const others = preview.data?.names ?? [];
  return (
    <Sheet title={`Turn off ${mods.length > 1 ? count(mods.length, "entry", "entries") : named(desk, mods)[0]}`} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Problem error={preview.error} />
      {!preview.data && !preview.error && <Waiting what="Working out what depends on it" />}
      {preview.data && (
        <>
          {others.length === 0 ? <Typography gutterBottom>Nothing else in the draft depends on it.</Typography> : (
            <>
              <Alert severity="warning" sx={{ mb: 1 }}>{others.join(", ")} cannot do without it.</Alert>
              <FormControlLabel control={<Checkbox size="small" checked={follow} onChange={(event) => setFollow(event.target.checked)} />} label={`Turn off ${others.length > 1 ? `these ${others.length}` : "this one"} too`} />
            </>
          )}
          <Typography variant="body2" color="textSecondary" gutterBottom>It can be undone.</Typography>
          <Button variant="contained" onClick={turnOff}>Turn off {count(follow ? mods.length + others.length : mods.length, "entry", "entries")}</Button>
        </>
      )}
    </Sheet>
  );
}

export function CopySheet({ desk, mods }: { desk: Desk; mods: string[] }) {
  const packs = (usePacks().data?.packs ?? []).filter((pack) => pack.game === desk.draft.game && pack.slug !== desk.draft.slug && pack.role !== "member");
  const [to, setTo] = useState("");
  const copy = useCopyTo(desk.draft.slug);
  return (
    <Sheet title={`Copy ${mods.length > 1 ? count(mods.length, "entry", "entries") : named(desk, mods)[0]}`} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Typography variant="body2" gutterBottom>Build, pin, sides, path rules and note come along.</Typography>
      {packs.length === 0 ? <Typography>You curate no other pack of {desk.draft.game_name}.</Typography> : (
        <Box component="form" onSubmit={(event) => (event.preventDefault(), copy.mutate({ mods, to }))} sx={{ display: "flex", gap: 1, my: 1 }}>
          <TextField select fullWidth required label="To the pack" value={to} onChange={(event) => setTo(event.target.value)}>
            {packs.map((pack) => <MenuItem key={pack.slug} value={pack.slug}>{pack.name}</MenuItem>)}
          </TextField>
          <Button type="submit" variant="contained" disabled={!to || copy.isPending}>Copy</Button>
        </Box>
      )}
      <Problem error={copy.error} />
      {copy.data && (
        <Alert severity="success">
          {copy.data.count ? `${count(copy.data.count, "entry", "entries")} copied to ${copy.data.name}.` : `Nothing had to be copied to ${copy.data.name}.`}
          {copy.data.already.length > 0 && ` There already: ${copy.data.already.join(", ")}.`}
        </Alert>
      )}
    </Sheet>
  );
}

const WORDS = {
  pin: ["Pin", "Pinned because", "pinned"],
  note: ["Note", "Note for curators", "changed the note of"],
  label: ["Put under a label", "Label", "put under a label:"],
  group: ["Offer as one of a group", "Name of the group", "offered as a choice"],
} as const;

/** One text for many entries: the reason of a pin, a note, or the group they are alternatives in. */
export function TextSheet({ desk, mods, what }: { desk: Desk; mods: string[]; what: keyof typeof WORDS }) {
  const [text, setText] = useState("");
  const [title, label, words] = WORDS[what];
  const entries = desk.draft.entries.filter((entry) => mods.includes(entry.mod));
  const edit = (entry: EntryRow): Edit => {
    if (what === "pin") return { do: "set-pin", mod: entry.mod, pin: { reason: text.trim() } };
    if (what === "label") return { do: "set-label", mod: entry.mod, label: text.trim() };
    if (what === "note") return { do: "set-note", mod: entry.mod, note: text };
    return { do: "set-optional", mod: entry.mod, optional: true, by_default: entry.mod === entries[0]?.mod, one_of: text.trim() };
  };
  return (
    <Sheet title={`${title}: ${count(entries.length, "entry", "entries")}`} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Typography variant="body2" gutterBottom>{entries.map((entry) => entry.name).join(", ")}</Typography>
      <Box component="form" onSubmit={(event) => (event.preventDefault(), desk.make(several(entries.map(edit), `${words} ${count(entries.length, "entry", "entries")}${text.trim() ? `: ${text.trim().slice(0, 200)}` : ""}`)), desk.close())} sx={{ display: "flex", gap: 1, mt: 1 }}>
        <TextField fullWidth autoFocus label={label} value={text} onChange={(event) => setText(event.target.value)} slotProps={{ htmlInput: { maxLength: { pin: 300, note: 2000, group: 100, label: 60 }[what] } }} />
        <Button type="submit" variant="contained" disabled={!text.trim()}>{title.split(" ")[0]}</Button>
      </Box>
    </Sheet>
  );
}

/** What the pack is called, what it is for, where it is listed, and its emblem. */
export function DetailsSheet({ desk }: { desk: Desk }) {
  const { draft } = desk;
  const [facts, setFacts] = useState({ name: draft.name, purpose: draft.purpose, label: draft.label, emblem: draft.emblem, picture: draft.picture });
  const set = (key: "name" | "purpose" | "label") => (event: { target: { value: string } }) => setFacts((before) => ({ ...before, [key]: event.target.value }));
  const packs = usePacks().data?.packs ?? [];
  const labels = [...new Set(packs.map((pack) => pack.label).filter(Boolean))];
  return (
    <Sheet title="About this pack" onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Box component="form" onSubmit={(event) => (event.preventDefault(), desk.make({ do: "set-details", ...facts, name: facts.name.trim(), label: facts.label.trim() }))} sx={{ display: "flex", flexDirection: "column", gap: 1.75, pt: 1 }}>
        <TextField required label="Name" value={facts.name} onChange={set("name")} slotProps={{ htmlInput: { maxLength: 100 } }} />
        <TextField select label="It is for" value={facts.purpose} onChange={set("purpose")}>
          {["group", "server", "playthrough"].map((one) => <MenuItem key={one} value={one}>a {one}</MenuItem>)}
        </TextField>
        <TextField label="Listed under" value={facts.label} onChange={set("label")} helperText={labels.length ? `In use: ${labels.join(", ")}` : "Packs with the same label stand together in the list."} slotProps={{ htmlInput: { maxLength: 60 } }} />
        <EmblemChoice emblem={facts.emblem} onChoose={(emblem) => setFacts((before) => ({ ...before, emblem, picture: null }))} />
        <PictureChoice picture={facts.picture} onChoose={(picture) => setFacts((before) => ({ ...before, picture }))} />
        <Button type="submit" variant="contained" sx={{ alignSelf: "start" }} disabled={!facts.name.trim()}>Keep</Button>
      </Box>
    </Sheet>
  );
}
