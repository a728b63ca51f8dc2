// Game definitions: what is particular to a game, as data that staff can change.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useGames, useKeepGame, useMe } from "../api/queries";
import type { Game, GameInfo } from "../api/schema";
import { Mono, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { FileButton } from "../parts/FileButton";
import { StarterList } from "./StarterList";
import { Cell, Lines, RangeCells, Rows } from "./fields";

const NEW: Game = {
  slug: "", name: "", version_scheme: "generic", versions: [], loaders: [], kinds: [], memory: { base_mib: 2048, per_mod_mib: 12 }, outdated: "refused", load_order: false,
  own_files: [], folders: [], data_folders: { settings: [], saves: [], logs: [] }, sides: ["client", "server"],
};

/** A definition without what is only counted. */
function plain(info: GameInfo): Game {
  return { ...NEW, ...Object.fromEntries(Object.entries(info).filter(([key]) => key !== "mods" && key !== "ready")) };
}

export function Games() {
  const games = useGames();
  const staff = useMe().data?.staff ?? false;
  const [params, setParams] = useSearchParams();
  const chosen = params.get("game") ?? "";
  if (games.error) return <Problem error={games.error} again={() => void games.refetch()} />;
  if (!games.data) return <Waiting what="Fetching the games" />;
  const game = games.data.games.find((one) => one.slug === chosen);
  return (
    <Box sx={{ maxWidth: 1180, mx: "auto", px: 3, py: 2.5, display: "grid", gridTemplateColumns: { xs: "1fr", md: "230px 1fr" }, columnGap: 4, rowGap: 3 }}>
      <Box component="nav" aria-label="Games">
        <Typography variant="h1" gutterBottom>Games</Typography>
        {games.data.games.map((one) => (
          <Box key={one.slug} component="button" aria-current={one.slug === chosen ? "page" : undefined} onClick={() => setParams({ game: one.slug })} sx={{ all: "unset", cursor: "pointer", display: "flex", gap: 1.25, alignItems: "center", width: "100%", py: 0.75, borderBottom: 1, borderColor: "divider", bgcolor: one.slug === chosen ? "selected" : undefined, "&:focus-visible": { outline: "2px solid" } }}>
            <Emblem slug={one.slug} large={26} />
            <span>{one.name}<Typography variant="caption" color="textSecondary" component="div"><Mono>{one.mods}</Mono> mods</Typography></span>
          </Box>
        ))}
        {staff && <Button variant="outlined" sx={{ mt: 1.5 }} onClick={() => setParams({ game: "new" })}>New game</Button>}
      </Box>
      <Box sx={{ minWidth: 0 }}>
        {game || chosen === "new" ? <Definition key={chosen} first={game ? plain(game) : NEW} staff={staff} fresh={chosen === "new"} /> : <Typography color="textSecondary">Choose a game to see what is known of it.</Typography>}
        {game && <Box sx={{ mt: 3 }}><StarterList game={game} staff={staff} /></Box>}
      </Box>
    </Box>
  );
}

function Definition({ first, staff, fresh }: { first: Game; staff: boolean; fresh: boolean }) {
  const [game, setGame] = useState(first);
  const keep = useKeepGame();
  const set = (facts: Partial<Game>) => setGame((before) => ({ ...before, ...facts }));
  const [unread, setUnread] = useState("");
  const takeFrom = async (file: File) => {
    try {
      const read = JSON.parse(await file.text()) as Game;
      if (!Array.isArray(read.versions) || typeof read.slug !== "string") throw new SyntaxError();
      setGame({ ...NEW, ...read });
      setUnread("");
    } catch {
      setUnread(`${file.name} is not the document of a game. Nothing was taken from it.`);
    }
  };
  const { memory, data_folders: data } = { ...NEW, ...game };
  return (
    <Box component="fieldset" disabled={!staff} sx={{ border: 0, p: 0, m: 0, minWidth: 0, display: "flex", flexDirection: "column", gap: 2 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
        <Typography variant="h1" sx={{ flex: 1 }}>{game.name || "New game"}</Typography>
        {staff && <FileButton variant="text" label="Game definition document" accept=".json" onFile={(file) => void takeFrom(file)}>Take from a document</FileButton>}
        <Button component="a" download={`${game.slug}.game.json`} href={`data:application/json,${encodeURIComponent(JSON.stringify(game, null, 2))}`}>Save as a document</Button>
        {staff && <Button variant="contained" disabled={keep.isPending || !game.slug || !game.name} onClick={() => keep.mutate(game)}>{keep.isPending ? "Keeping it" : "Keep"}</Button>}
      </Box>
      {unread && <Alert severity="error">{unread}</Alert>}
      <Problem error={keep.error} />
      {keep.isSuccess && <Alert severity="success">It is kept. Every pack of the game goes by it from now on; what each mod is for is worked out in the background.</Alert>}
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1.5 }}>
        <TextField label="Name" value={game.name} onChange={(event) => set({ name: event.target.value })} />
        <TextField label="Slug" value={game.slug} disabled={!fresh} onChange={(event) => set({ slug: event.target.value })} />
        <TextField select label="Versions are ordered" value={game.version_scheme ?? "generic"} onChange={(event) => set({ version_scheme: event.target.value as "generic" })}>
          <MenuItem value="generic">by numbers and words</MenuItem><MenuItem value="semver">as SemVer says</MenuItem>
        </TextField>
      </Box>
      <Rows title="Versions" rows={game.versions} fresh={{ label: "", channel: "stable", released: null, runtime: null }} onRows={(versions) => set({ versions })} columns="1fr 1fr 1fr 1fr">
        {(row, put) => (
          <>
            <Cell label="Version" value={row.label} onValue={(label) => put({ ...row, label })} />
            <Cell label="Channel" value={row.channel ?? "stable"} options={["stable", "preview", "experimental"]} onValue={(channel) => put({ ...row, channel })} />
            <Cell label="Released" kind="date" value={row.released ?? ""} onValue={(released) => put({ ...row, released: released || null })} />
            <Cell label="Runtime" kind="number" value={String(row.runtime ?? "")} onValue={(runtime) => put({ ...row, runtime: runtime ? Number(runtime) : null })} />
          </>
        )}
      </Rows>
      <Rows title="Loaders" rows={game.loaders ?? []} fresh={{ slug: "", name: "", versions: [] }} onRows={(loaders) => set({ loaders })} columns="1fr 1fr 4fr">
        {(row, put) => (
          <>
            <Cell label="Slug" value={row.slug} onValue={(slug) => put({ ...row, slug })} />
            <Cell label="Name" value={row.name} onValue={(name) => put({ ...row, name })} />
            <Box>
              <Rows title="" rows={row.versions ?? []} fresh={{ label: "", game_versions: null, recommended: false }} onRows={(versions) => put({ ...row, versions })} columns="1fr 3fr auto">
                {(one, putOne) => (
                  <>
                    <Cell label="Version" value={one.label} onValue={(label) => putOne({ ...one, label })} />
                    <RangeCells scheme={game.version_scheme ?? "generic"} versions={game.versions.map((version) => version.label)} value={one.game_versions ?? null} onValue={(range) => putOne({ ...one, game_versions: range })} />
                    <FormControlLabel control={<Checkbox size="small" checked={one.recommended ?? false} onChange={(event) => putOne({ ...one, recommended: event.target.checked })} />} label="recommended" />
                  </>
                )}
              </Rows>
            </Box>
          </>
        )}
      </Rows>
      <Rows title="Kinds of content" rows={game.kinds ?? []} fresh={{ slug: "", name: "", folder: "", packaging: "archive", manifest: null, exclusive: false }} onRows={(kinds) => set({ kinds })} columns="1fr 1.3fr 1fr 1.4fr 1.2fr auto">
        {(row, put) => (
          <>
            <Cell label="Slug" value={row.slug} onValue={(slug) => put({ ...row, slug })} />
            <Cell label="Name" value={row.name} onValue={(name) => put({ ...row, name })} />
            <Cell label="Folder" value={row.folder ?? ""} onValue={(folder) => put({ ...row, folder })} />
            <Cell label="Placed" value={row.packaging ?? "archive"} options={["archive", "folder", "overlay"]} words={{ archive: "whole, as it is", folder: "unpacked, own folder", overlay: "onto the game" }} onValue={(packaging) => put({ ...row, packaging: packaging as "archive" })} />
            <Cell label="Manifest" value={row.manifest ?? ""} onValue={(manifest) => put({ ...row, manifest: manifest || null })} />
            <FormControlLabel control={<Checkbox size="small" checked={row.exclusive ?? false} onChange={(event) => put({ ...row, exclusive: event.target.checked })} />} label="only one" />
          </>
        )}
      </Rows>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr 1fr", gap: 1.5 }}>
        <TextField label="Memory of the game, MiB" type="number" value={memory.base_mib} onChange={(event) => set({ memory: { ...memory, base_mib: Number(event.target.value) } })} />
        <TextField label="and for each mod, MiB" type="number" value={memory.per_mod_mib} onChange={(event) => set({ memory: { ...memory, per_mod_mib: Number(event.target.value) } })} />
        <TextField select label="Mods for older versions" value={game.outdated ?? "refused"} onChange={(event) => set({ outdated: event.target.value as "refused" })}>
          <MenuItem value="refused">are refused</MenuItem><MenuItem value="usually-runs">usually run</MenuItem>
        </TextField>
        <TextField select label="Halves" value={(game.sides ?? []).join("+")} onChange={(event) => set({ sides: event.target.value.split("+") as ("client" | "server")[] })}>
          <MenuItem value="client+server">client and server</MenuItem><MenuItem value="client">client only</MenuItem>
        </TextField>
      </Box>
      <FormControlLabel control={<Checkbox size="small" checked={game.load_order ?? false} onChange={(event) => set({ load_order: event.target.checked })} />} label="The load order decides which mod's file wins" />
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr 1fr 1fr", gap: 1.5 }}>
        <Lines label="Settings are in" value={data.settings} onValue={(settings) => set({ data_folders: { ...data, settings } })} />
        <Lines label="Saved worlds are in" value={data.saves} onValue={(saves) => set({ data_folders: { ...data, saves } })} />
        <Lines label="Logs are in" value={data.logs} onValue={(logs) => set({ data_folders: { ...data, logs } })} />
        <Lines label="Folders the game reads" value={game.folders ?? []} onValue={(folders) => set({ folders })} />
        <Lines label="Files the game installs" value={game.own_files ?? []} onValue={(own_files) => set({ own_files })} />
      </Box>
    </Box>
  );
}
