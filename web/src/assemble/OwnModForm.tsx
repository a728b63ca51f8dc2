// What a mod of one's own is: facts about it, how far it is felt, where it may be fetched, and how it is laid out.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import type { Game, OwnModRequest, UploadInfo } from "../api/schema";
import { Copyable, Fact, Mono } from "../parts/common";
import { size } from "../parts/words";

export type OwnModFacts = OwnModRequest;

const NEED = { client: { client: "required", server: "unsupported" }, server: { client: "unsupported", server: "required" }, both: { client: "required", server: "required" } } as const;
const REACHES = [
  ["shared", "everybody needs the same"],
  ["own", "only the player's own screen"],
  ["progress", "changes progression"],
] as const;

interface Props {
  game: Game;
  ground?: { game_version: string; loader: { slug: string } | null };
  upload?: UploadInfo;
  /** A mod that stands on the shelf already and gets a further build. */
  known?: { slug: string; name: string };
  busy: boolean;
  onPut: (facts: OwnModFacts) => void;
}

export function OwnModForm({ game, ground, upload, known, busy, onPut }: Props) {
  const proposal = upload?.proposal;
  const [facts, setFacts] = useState({
    name: known?.name ?? proposal?.name ?? "", version: proposal?.version ?? "1.0.0", kind: proposal?.kind ?? game.kinds[0]?.slug ?? "mod", summary: "", description: "", licence: "", passing: "link-only", side: "both", reach: "shared", save_effect: "none",
    page: "", instructions: "", file_name: "", file_size: "", sha256: "", categories: "", unwrap: proposal?.unwrap ?? "", wrap: proposal?.wrap ?? "",
  });
  const set = (key: keyof typeof facts) => (event: { target: { value: string } }) => setFacts((before) => ({ ...before, [key]: event.target.value }));
  const kind = game.kinds.find((one) => one.slug === facts.kind);
  const kept = upload !== undefined && facts.passing === "allowed";
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onPut({
      mod: known?.slug ?? "", name: facts.name.trim(), version: facts.version.trim(), upload: upload?.id ?? "", file_name: facts.file_name.trim(), size: Number(facts.file_size) || 0, sha256: facts.sha256.trim().toLowerCase() || null,
      kind: facts.kind, summary: facts.summary, description: facts.description, authors: [], categories: facts.categories.split(",").map((one) => one.trim()).filter(Boolean), licence: facts.licence,
      redistribution: facts.passing as "allowed" | "link-only", sides: NEED[facts.side as keyof typeof NEED], reach: facts.reach as "own" | "shared" | "progress", save_effect: facts.save_effect as "none" | "adds" | "loses-on-removal",
      page: facts.page.trim(), instructions: facts.instructions, game_versions: ground ? [ground.game_version] : [], loaders: ground?.loader ? [ground.loader.slug] : [],
      unwrap: facts.unwrap, wrap: facts.wrap, changelog: "",
    });
  };
  return (
    <Box component="form" onSubmit={submit} sx={{ display: "flex", flexDirection: "column", gap: 1.5, mt: 1.5 }}>
      {upload && <Findings upload={upload} />}
      {!upload && (
        <>
          <Box sx={{ display: "grid", gridTemplateColumns: "2fr 1fr", gap: 1 }}>
            <TextField required label="File name" value={facts.file_name} onChange={set("file_name")} />
            <TextField required label="Size in bytes" value={facts.file_size} onChange={set("file_size")} slotProps={{ htmlInput: { inputMode: "numeric", pattern: "[0-9]+" } }} />
          </Box>
          <TextField label="Checksum (SHA-256)" value={facts.sha256} onChange={set("sha256")} helperText="By it the file is recognised when it arrives. Without one, no rig can check it." slotProps={{ htmlInput: { pattern: "\\s*[0-9a-fA-F]{64}\\s*", maxLength: 70 } }} />
        </>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "2fr 1fr", gap: 1 }}>
        <TextField required label="Name" value={facts.name} onChange={set("name")} />
        <TextField required label="Version" value={facts.version} onChange={set("version")} />
      </Box>
      <TextField label="What it does, in a sentence" value={facts.summary} onChange={set("summary")} slotProps={{ htmlInput: { maxLength: 300 } }} />
      <TextField multiline minRows={2} maxRows={8} label="Description (CommonMark)" value={facts.description} onChange={set("description")} slotProps={{ htmlInput: { maxLength: 20000 } }} />
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
        <TextField select label="Kind" value={facts.kind} onChange={set("kind")}>{game.kinds.map((one) => <MenuItem key={one.slug} value={one.slug}>{one.name}</MenuItem>)}</TextField>
        <TextField select label="Side" value={facts.side} onChange={set("side")}>
          <MenuItem value="both">client and server</MenuItem><MenuItem value="client">client only</MenuItem><MenuItem value="server">server only</MenuItem>
        </TextField>
        <TextField select label="Reach" value={facts.reach} onChange={set("reach")} helperText={facts.reach === "shared" ? undefined : "It shows as such once another curator has checked it."}>{REACHES.map(([value, words]) => <MenuItem key={value} value={value}>{words}</MenuItem>)}</TextField>
        <TextField select label="When it is removed" value={facts.save_effect} onChange={set("save_effect")}>
          <MenuItem value="none">worlds do not notice</MenuItem><MenuItem value="adds">worlds keep what it added</MenuItem><MenuItem value="loses-on-removal">saved things vanish</MenuItem>
        </TextField>
        <TextField label="Categories, with commas" value={facts.categories} onChange={set("categories")} />
        <TextField label="Licence" placeholder="MIT" value={facts.licence} onChange={set("licence")} />
      </Box>
      <TextField select label="May the file be passed on?" value={facts.passing} onChange={set("passing")} helperText={kept ? "The file is kept here and handed to the members." : "The file is not kept. Members fetch it from its page and it is recognised by its checksum."}>
        <MenuItem value="link-only">No, or not known: only its page is passed on</MenuItem>
        <MenuItem value="allowed" disabled={!upload}>Yes, its licence allows it</MenuItem>
      </TextField>
      {!kept && (
        <>
          <TextField required label="Page where a person finds it" type="url" placeholder="https://" value={facts.page} onChange={set("page")} />
          <TextField multiline minRows={2} label="What to do there" value={facts.instructions} onChange={set("instructions")} />
        </>
      )}
      {upload && kind?.packaging !== "archive" && (
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
          <TextField label="Unwrap: take only what is in" value={facts.unwrap} onChange={set("unwrap")} />
          <TextField label="Wrap: put it into" value={facts.wrap} onChange={set("wrap")} />
        </Box>
      )}
      <Typography variant="body2" color="textSecondary">{ground ? `It is taken to be for ${game.name} ${ground.game_version}.` : "It is taken to be for every version of the game."}</Typography>
      <Button type="submit" variant="contained" disabled={busy} sx={{ alignSelf: "start" }}>{busy ? "Putting it on the shelf" : "Put it on the shelf"}</Button>
    </Box>
  );
}

/** What an upload was found to be: checksum, number of files, and what was seen and put right. */
function Findings({ upload }: { upload: UploadInfo }) {
  const { proposal } = upload;
  return (
    <Box sx={{ my: 1.5 }} data-judged={proposal?.kind}>
      <Copyable text={upload.sha256} what="checksum" />
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 2fr", gap: 1, my: 1 }}>
        <Fact label="Files">{upload.files.toLocaleString("en")}</Fact>
        <Fact label="Unpacked">{size(upload.unpacked)}</Fact>
        <Fact label="Goes to"><Mono>{proposal?.target || "the game's own folder"}</Mono></Fact>
      </Box>
      {proposal?.notes.map((note) => <Alert key={note} severity="info" sx={{ my: 0.5, py: 0 }}>{note}</Alert>)}
    </Box>
  );
}
