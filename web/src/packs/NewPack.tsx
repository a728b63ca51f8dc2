// Choosing the ground: game, version with what is ready for it, loader; what the pack is called; and what it begins with.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Radio from "@mui/material/Radio";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useGames, useNewPack, usePacks } from "../api/queries";
import type { GameInfo } from "../api/schema";
import { Empty, Mono, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { EmblemChoice } from "../parts/EmblemChoice";
import { NOTHING, StartChoice, type Start } from "./StartChoice";

const PURPOSES = [
  ["group", "a group", "Everybody plays the same, together or apart."],
  ["server", "a server", "A server and all who join it."],
  ["playthrough", "a playthrough", "For yourself, or to be played once."],
] as const;
const CHANNELS: Record<string, string> = { stable: "", preview: "preview", experimental: "experimental" };

const slugOf = (name: string) => name.toLowerCase().replace(/[^a-z0-9]+/g, "-").replace(/^-|-$/g, "") || "pack";

export function NewPack() {
  const games = useGames();
  const packs = usePacks();
  const [params] = useSearchParams();
  if (games.error) return <Problem error={games.error} again={() => void games.refetch()} />;
  if (!games.data || !packs.data) return <Waiting what="Fetching the games" />;
  const list = games.data.games;
  if (list.length === 0) {
    return <Empty title="No games yet">The catalogue is empty. Somebody of the staff has to import one before packs can be made.</Empty>;
  }
  // The game one plays most is most likely meant.
  const played = (slug: string) => packs.data.packs.filter((pack) => pack.game === slug).length;
  const usual = [...list].sort((one, two) => played(two.slug) - played(one.slug) || two.mods - one.mods)[0];
  const asked = list.find((game) => game.slug === params.get("game"));
  return <Form games={list} first={asked ?? usual ?? list[0]} />;
}

function Form({ games, first }: { games: GameInfo[]; first: GameInfo | undefined }) {
  const [name, setName] = useState("");
  const [label, setLabel] = useState("");
  const [emblem, setEmblem] = useState("");
  const [gameSlug, setGame] = useState(first?.slug ?? "");
  const [versionChosen, setVersion] = useState("");
  const [loaderChosen, setLoader] = useState("");
  const [loaderVersionChosen, setLoaderVersion] = useState("");
  const [purpose, setPurpose] = useState("group");
  const [start, setStart] = useState<Start>(NOTHING);
  const [notes, setNotes] = useState<{ slug: string; notes: string[] } | null>(null);
  const make = useNewPack();
  const go = useNavigate();
  const game = games.find((one) => one.slug === gameSlug);
  if (!game) return null;
  const versions = [...game.versions].reverse();
  const stable = versions.find((version) => version.channel === "stable") ?? versions[0];
  const version = versionChosen || (stable?.label ?? "");
  const loaders = game.loaders;
  const loader = loaders.find((one) => one.slug === loaderChosen) ?? loaders[0];
  const loaderVersions = loader?.versions ?? [];
  const loaderVersion = loaderVersionChosen || (loaderVersions.find((one) => one.recommended) ?? loaderVersions.at(-1))?.label || "";
  const open = (slug: string) => void go(`/packs/${slug}/assemble${start.kind === "nothing" ? "?look=catalogue" : ""}`);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const ground = { game: game.slug, game_version: version, loader: loader ? { slug: loader.slug, version: loaderVersion || null } : null };
    const body = { name, ...ground, purpose, label, emblem, channel_floor: "stable" as const, start: start.asked };
    make.mutate(body, { onSuccess: (made) => (made.notes.length ? setNotes(made) : open(made.slug)) });
  };
  if (notes) {
    return (
      <Box sx={{ maxWidth: 720, mx: "auto", p: 4 }}>
        <Typography variant="h1" gutterBottom>The pack has been begun</Typography>
        {notes.notes.map((note) => <Alert key={note} severity="info" sx={{ my: 1 }}>{note}</Alert>)}
        <Button variant="contained" onClick={() => open(notes.slug)}>To the pack</Button>
      </Box>
    );
  }
  return (
    <Box component="form" onSubmit={submit} sx={{ maxWidth: 1180, mx: "auto", px: 3, py: 2.5 }}>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", mb: 2 }}>
        <Emblem slug={emblem || slugOf(name)} large={44} />
        <Typography variant="h1" sx={{ flex: 1 }}>New pack</Typography>
        <Button type="submit" variant="contained" size="large" disabled={make.isPending || !name.trim() || !start.ready}>
          {make.isPending ? "Beginning the pack" : "Begin the pack"}
        </Button>
      </Box>
      <Problem error={make.error} />
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1fr" }, columnGap: 5, rowGap: 3 }}>
        <Box sx={{ display: "flex", flexDirection: "column", gap: 2, minWidth: 0 }}>
          <TextField label="Name" required autoFocus value={name} onChange={(event) => setName(event.target.value)} slotProps={{ htmlInput: { maxLength: 100 } }} helperText="It can be changed later, and so can everything else here." />
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 2 }}>
            <TextField select label="It is for" value={purpose} onChange={(event) => setPurpose(event.target.value)} helperText={PURPOSES.find(([value]) => value === purpose)?.[2]}>
              {PURPOSES.map(([value, words]) => <MenuItem key={value} value={value}>{words}</MenuItem>)}
            </TextField>
            <TextField label="Listed under" value={label} onChange={(event) => setLabel(event.target.value)} slotProps={{ htmlInput: { maxLength: 60 } }} helperText="Groups packs in your list" />
          </Box>
          <EmblemChoice key={slugOf(name)} emblem={emblem || slugOf(name)} onChoose={setEmblem} />
          <StartChoice game={game} start={start} onStart={setStart} />
        </Box>
        <Box sx={{ display: "flex", flexDirection: "column", gap: 2, minWidth: 0 }}>
          <TextField select label="Game" value={gameSlug} onChange={(event) => (setGame(event.target.value), setVersion(""), setLoader(""), setLoaderVersion(""), setStart(NOTHING))}>
            {games.map((one) => <MenuItem key={one.slug} value={one.slug}>{one.name}</MenuItem>)}
          </TextField>
          <Versions game={game} versions={versions} loader={loader?.slug ?? ""} chosen={version} onChoose={setVersion} />
          {loader ? (
            <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 2 }}>
              <TextField select label="Loader" value={loader.slug} onChange={(event) => (setLoader(event.target.value), setLoaderVersion(""))}>
                {loaders.map((one) => <MenuItem key={one.slug} value={one.slug}>{one.name}</MenuItem>)}
              </TextField>
              <TextField select label="Loader version" value={loaderVersion} onChange={(event) => setLoaderVersion(event.target.value)}>
                {[...loaderVersions].reverse().map((one) => <MenuItem key={one.label} value={one.label}>{one.label}{one.recommended ? " (recommended)" : ""}</MenuItem>)}
              </TextField>
            </Box>
          ) : (
            <Typography variant="body2" color="textSecondary">{game.name} needs no loader{game.load_order ? "; in it the load order decides" : ""}.</Typography>
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** The versions of a game, newest first, each with its channel, its date and how much of the catalogue is ready for it. */
function Versions({ game, versions, loader, chosen, onChoose }: { game: GameInfo; versions: GameInfo["versions"]; loader: string; chosen: string; onChoose: (label: string) => void }) {
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, minWidth: 0 }}>
      <Typography component="legend" variant="h3" sx={{ mb: 0.5 }}>Game version</Typography>
      <Box sx={{ borderTop: 2, borderColor: "text.primary", maxHeight: 300, overflowY: "auto" }}>
        {versions.map((version) => {
          const ready = game.ready[`${version.label}|${loader}`] ?? 0;
          const part = game.mods ? ready / game.mods : 0;
          return (
            <Box key={version.label} component="label" data-version={version.label} sx={{ display: "grid", gridTemplateColumns: "34px 160px 110px 1fr", alignItems: "center", columnGap: 1, borderBottom: 1, borderColor: "divider", cursor: "pointer", bgcolor: chosen === version.label ? "selected" : "background.paper" }}>
              <Radio size="small" checked={chosen === version.label} onChange={() => onChoose(version.label)} slotProps={{ input: { "aria-label": `Game version ${version.label}` } }} />
              <span><Mono strong>{version.label}</Mono> <Typography component="span" variant="caption" color="warning">{CHANNELS[version.channel ?? "stable"] ?? version.channel}</Typography></span>
              <Typography variant="body2" color="textSecondary">{version.released ? new Date(version.released).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" }) : ""}</Typography>
              <Box sx={{ display: "flex", gap: 1, alignItems: "center", pr: 1 }}>
                <Box aria-hidden="true" sx={{ flex: 1, height: 6, border: 1, borderColor: "divider" }}><Box sx={{ width: `${100 * part}%`, height: "100%", bgcolor: "secondary.light" }} /></Box>
                <Typography variant="caption" sx={{ whiteSpace: "nowrap" }}><Mono>{ready}</Mono> of {game.mods} mods</Typography>
              </Box>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
