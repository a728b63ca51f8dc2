// What a new pack begins with: nothing, a starter collection, a list, a document, a folder's inventory, another pack.
import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { usePacks, useStarters } from "../api/queries";
import type { GameInfo, NewPackRequest } from "../api/schema";
import { Copyable } from "../parts/common";
import { FileButton } from "../parts/FileButton";

type Asked = NonNullable<NewPackRequest["start"]>;

export interface Start {
  kind: string;
  asked: Asked;
  ready: boolean;
}

const EMPTY: Asked = { starter: null, document: null, text: null, inventory: null, pack: null, parts: [] };
export const NOTHING: Start = { kind: "nothing", asked: EMPTY, ready: true };
const KINDS: [string, string][] = [
  ["nothing", "nothing"],
  ["starter", "a starter collection"],
  ["text", "a list"],
  ["pack", "a copy of another pack"],
  ["document", "a pack document"],
  ["inventory", "an existing folder"],
];

export function StartChoice({ game, start, onStart }: { game: GameInfo; start: Start; onStart: (start: Start) => void }) {
  const begin = (kind: string, asked: Partial<Asked>, ready: boolean) => onStart({ kind, asked: { ...EMPTY, ...asked }, ready });
  return (
    <Box>
      <TextField select fullWidth label="Begin with" value={start.kind} onChange={(event) => begin(event.target.value, {}, event.target.value === "nothing")}>
        {KINDS.map(([value, words]) => <MenuItem key={value} value={value}>{words}</MenuItem>)}
      </TextField>
      <Box sx={{ mt: 1.5 }}>
        {start.kind === "starter" && <Starters game={game} chosen={start.asked.starter ?? null} onChoose={(starter) => begin("starter", { starter }, true)} />}
        {start.kind === "text" && <TextField fullWidth multiline minRows={4} maxRows={8} label="Links, names, slugs, a table" value={start.asked.text ?? ""} onChange={(event) => begin("text", { text: event.target.value }, event.target.value.trim() !== "")} />}
        {start.kind === "pack" && <OtherPack game={game} asked={start.asked} onChoose={(asked) => begin("pack", asked, Boolean(asked.pack))} />}
        {start.kind === "document" && <JsonFile what="pack document" onRead={(document) => begin("document", { document }, true)} hint="It is taken as it is, on its own game version and loader." />}
        {start.kind === "inventory" && (
          <>
            <Typography variant="body2" gutterBottom>Have the game's folder read where it is, then bring the file it writes:</Typography>
            <Copyable text="convoy stocktake . -o folder.inventory.json" what="command" />
            <JsonFile what="inventory" onRead={(inventory) => begin("inventory", { inventory }, true)} hint="What the catalogue knows by checksum becomes the list." />
          </>
        )}
      </Box>
    </Box>
  );
}

function Starters({ game, chosen, onChoose }: { game: GameInfo; chosen: number | null; onChoose: (starter: number) => void }) {
  const starters = (useStarters().data?.starters ?? []).filter((one) => one.game === game.slug);
  const one = starters.find((starter) => starter.id === chosen);
  if (starters.length === 0) return <Typography variant="body2" color="textSecondary">There is no starter collection for {game.name} yet.</Typography>;
  return (
    <>
      <TextField select fullWidth label="Starter collection" value={chosen ?? ""} onChange={(event) => onChoose(Number(event.target.value))}>
        {starters.map((starter) => <MenuItem key={starter.id} value={starter.id}>{starter.name}</MenuItem>)}
      </TextField>
      {one && <Typography variant="body2" color="textSecondary" sx={{ mt: 0.75 }}>{one.about} {one.mods.join(", ")}, and what they need.</Typography>}
    </>
  );
}

const PARTS = [
  ["settings", "settings"],
  ["files", "own files"],
  ["steps", "steps"],
] as const;

function OtherPack({ game, asked, onChoose }: { game: GameInfo; asked: Asked; onChoose: (asked: Partial<Asked>) => void }) {
  const packs = (usePacks().data?.packs ?? []).filter((pack) => pack.game === game.slug && pack.role !== "member");
  const parts = asked.parts ?? [];
  if (packs.length === 0) return <Typography variant="body2" color="textSecondary">You curate no pack of {game.name} yet.</Typography>;
  return (
    <>
      <TextField select fullWidth label="Pack" value={asked.pack ?? ""} onChange={(event) => onChoose({ pack: event.target.value, parts: ["settings", "files", "steps"] })}>
        {packs.map((pack) => <MenuItem key={pack.slug} value={pack.slug}>{pack.name}</MenuItem>)}
      </TextField>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Typography variant="body2" sx={{ alignSelf: "center" }}>Its entries come along, and:</Typography>
        {PARTS.map(([part, words]) => (
          <FormControlLabel key={part} control={<Checkbox size="small" checked={parts.includes(part)} disabled={!asked.pack} onChange={(event) => onChoose({ pack: asked.pack, parts: event.target.checked ? [...parts, part] : parts.filter((one) => one !== part) })} />} label={words} />
        ))}
      </Box>
    </>
  );
}

function JsonFile({ what, hint, onRead }: { what: string; hint: string; onRead: (value: Record<string, never>) => void }) {
  const [said, setSaid] = useState("");
  const read = async (file: File) => {
    try {
      onRead(JSON.parse(await file.text()) as Record<string, never>);
      setSaid(file.name);
    } catch {
      setSaid(`${file.name} is not a JSON document. Nothing was taken from it.`);
    }
  };
  return (
    <Box sx={{ mt: 1 }}>
      <FileButton label={`File of the ${what}`} accept=".json,application/json" onFile={(file) => void read(file)}>Choose the {what}</FileButton>
      <Typography variant="body2" color="textSecondary" role="status" sx={{ mt: 0.5 }}>{said || hint}</Typography>
    </Box>
  );
}
