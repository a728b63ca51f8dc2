// Choosing the ground: game, version from a channel, loader with the recommended version chosen, purpose, name.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Radio from "@mui/material/Radio";
import RadioGroup from "@mui/material/RadioGroup";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { useGames, useNewPack } from "../api/queries";
import type { Game } from "../api/schema";
import { Column, Empty, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";

const PURPOSES = [
  ["group", "A group", "Everybody plays the same, together or apart."],
  ["server", "A server", "A server and all who join it."],
  ["playthrough", "A playthrough", "For yourself, or to be played once."],
] as const;

const slugOf = (name: string) => name.toLowerCase().replace(/[^a-z0-9]+/g, "-") || "pack";

export function NewPack() {
  const games = useGames();
  if (games.error) return <Problem error={games.error} again={() => void games.refetch()} />;
  if (!games.data) return <Waiting what="Fetching the games" />;
  if (games.data.games.length === 0) {
    return <Empty title="No games yet">The catalogue is empty. Somebody of the staff has to import one before packs can be made.</Empty>;
  }
  return <Form games={games.data.games} />;
}

function Form({ games }: { games: Game[] }) {
  const [name, setName] = useState("");
  const [gameSlug, setGame] = useState(games[0]?.slug ?? "");
  const [versionChosen, setVersion] = useState("");
  const [loaderChosen, setLoader] = useState<string | null>(null);
  const [loaderVersionChosen, setLoaderVersion] = useState("");
  const [purpose, setPurpose] = useState("group");
  const make = useNewPack();
  const go = useNavigate();
  const game = games.find((one) => one.slug === gameSlug);
  if (!game) return null;
  const versions = [...game.versions].reverse();
  const stable = versions.find((version) => version.channel === "stable") ?? versions[0];
  const version = versionChosen || (stable?.label ?? "");
  const loader = game.loaders.find((one) => one.slug === (loaderChosen ?? game.loaders[0]?.slug));
  const loaderVersions = loader?.versions ?? [];
  const loaderVersion = loaderVersionChosen || (loaderVersions.find((one) => one.recommended) ?? loaderVersions.at(-1))?.label || "";
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const body = { name, game: game.slug, game_version: version, loader: loader ? { slug: loader.slug, version: loaderVersion } : null, purpose, channel_floor: "stable" as const };
    make.mutate(body, { onSuccess: (made) => void go(`/packs/${made.slug}/assemble?sheet=catalogue`) });
  };
  return (
    <Column>
      <Box component="form" onSubmit={submit} sx={{ display: "flex", flexDirection: "column", gap: 2.25 }}>
        <Box sx={{ display: "flex", gap: 2, alignItems: "center" }}>
          <Emblem slug={slugOf(name)} large={48} />
          <Typography variant="h1">New pack</Typography>
        </Box>
        <Problem error={make.error} />
        <TextField label="Name" required autoFocus value={name} onChange={(event) => setName(event.target.value)} slotProps={{ htmlInput: { maxLength: 100 } }} helperText="What the group calls it. It can be changed later, and so can everything below." />
        <TextField select label="Game" value={gameSlug} onChange={(event) => (setGame(event.target.value), setVersion(""), setLoader(null), setLoaderVersion(""))}>
          {games.map((one) => (
            <MenuItem key={one.slug} value={one.slug}>
              {one.name}
            </MenuItem>
          ))}
        </TextField>
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr 1fr" }, gap: 2 }}>
          <TextField select label="Game version" value={version} onChange={(event) => setVersion(event.target.value)}>
            {versions.map((one) => (
              <MenuItem key={one.label} value={one.label}>
                {one.label}
                {one.channel === "stable" ? "" : ` (${one.channel})`}
                {one.released ? `, ${new Date(one.released).toLocaleDateString("en-GB", { month: "short", year: "numeric" })}` : ""}
              </MenuItem>
            ))}
          </TextField>
          {game.loaders.length > 0 && (
            <TextField select label="Loader" value={loader?.slug ?? ""} onChange={(event) => (setLoader(event.target.value), setLoaderVersion(""))}>
              {game.loaders.map((one) => (
                <MenuItem key={one.slug} value={one.slug}>
                  {one.name}
                </MenuItem>
              ))}
            </TextField>
          )}
          {loader && (
            <TextField select label="Loader version" value={loaderVersion} onChange={(event) => setLoaderVersion(event.target.value)}>
              {[...loaderVersions].reverse().map((one) => (
                <MenuItem key={one.label} value={one.label}>
                  {one.label}
                  {one.recommended ? " (recommended)" : ""}
                </MenuItem>
              ))}
            </TextField>
          )}
        </Box>
        <Box>
          <Typography variant="h3" id="purpose">
            It is for
          </Typography>
          <RadioGroup aria-labelledby="purpose" value={purpose} onChange={(event) => setPurpose(event.target.value)}>
            {PURPOSES.map(([value, label, what]) => (
              <FormControlLabel
                key={value}
                value={value}
                control={<Radio size="small" />}
                label={
                  <>
                    {label}.{" "}
                    <Typography component="span" variant="body2" color="textSecondary">
                      {what}
                    </Typography>
                  </>
                }
              />
            ))}
          </RadioGroup>
        </Box>
        <Button type="submit" variant="contained" size="large" disabled={make.isPending || !name.trim()} sx={{ alignSelf: "start" }}>
          {make.isPending ? "Beginning the pack" : "Begin the pack"}
        </Button>
      </Box>
    </Column>
  );
}
