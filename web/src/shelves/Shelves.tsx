// Shelves: mods of a team's own, who is on the team, and what a second person has to check.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";
import { OwnModForm } from "../assemble/OwnModForm";
import { useGames, useShelfWork, useShelves } from "../api/queries";
import type { Game, ShelfInfo, UploadInfo } from "../api/schema";
import { judged, sendFile } from "../api/uploads";
import { Empty, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { FileButton } from "../parts/FileButton";
import { count, REACH, size } from "../parts/words";

export function Shelves() {
  const shelves = useShelves();
  const work = useShelfWork();
  const [name, setName] = useState("");
  if (shelves.error) return <Problem error={shelves.error} again={() => void shelves.refetch()} />;
  if (!shelves.data) return <Waiting what="Fetching your shelves" />;
  return (
    <Box sx={{ maxWidth: 1000, mx: "auto", px: 3, py: 2.5 }}>
      <Box component="form" onSubmit={(event) => (event.preventDefault(), work.make.mutate(name.trim()), setName(""))} sx={{ display: "flex", gap: 1, alignItems: "center", mb: 2, flexWrap: "wrap" }}>
        <Typography variant="h1" sx={{ flex: 1 }}>Shelves</Typography>
        <TextField label="Name of a new shelf" value={name} onChange={(event) => setName(event.target.value)} slotProps={{ htmlInput: { maxLength: 100 } }} />
        <Button type="submit" variant="contained" disabled={!name.trim()}>Make a shelf</Button>
      </Box>
      <Problem error={work.make.error} />
      {shelves.data.shelves.length === 0 && (
        <Empty title="No shelf yet">
          <Typography>A shelf holds mods that the public catalogue does not have. Only the people on it find them. A pack's own shelf appears by itself when its curators bring a file.</Typography>
        </Empty>
      )}
      {shelves.data.shelves.map((shelf) => <Shelf key={shelf.id} shelf={shelf} />)}
    </Box>
  );
}

function Shelf({ shelf }: { shelf: ShelfInfo }) {
  const work = useShelfWork();
  const [adding, setAdding] = useState<{ slug: string; name: string; game: string } | null>(null);
  const fresh = { slug: "", name: "", game: "" };
  return (
    <Box component="section" aria-label={shelf.name} sx={{ mb: 4 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "baseline", borderBottom: 2, borderColor: "text.primary", pb: 0.5 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>{shelf.name} <Typography component="span" variant="body2" color="textSecondary">{count(shelf.mods.length, "mod")}</Typography></Typography>
        <Button variant="outlined" onClick={() => setAdding(adding ? null : fresh)}>{adding ? "Not now" : "Add a mod"}</Button>
      </Box>
      <Problem error={work.check.error} />
      {adding && <AddMod key={adding.slug} shelf={shelf} known={adding} onDone={() => setAdding(null)} />}
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {shelf.mods.map((mod) => (
          <Box component="li" key={mod.slug} data-own={mod.slug} sx={{ display: "flex", gap: 1.25, py: 0.75, alignItems: "center", borderBottom: 1, borderColor: "divider" }}>
            <Emblem slug={mod.slug} large={24} />
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography sx={{ fontWeight: 600 }}>{mod.name}</Typography>
              <Typography variant="body2" color="textSecondary">{[mod.summary, count(mod.builds, "build"), mod.reach_open && `stated reach “${REACH[mod.reach_open] ?? mod.reach_open}”, not checked yet`].filter(Boolean).join(" · ")}</Typography>
            </Box>
            {mod.reach_open && mod.may_check_reach && <Button variant="outlined" onClick={() => work.check.mutate({ game: mod.game, mod: mod.slug })} aria-label={`The reach of ${mod.name} is right`}>The reach is right</Button>}
            <Button onClick={() => setAdding({ slug: mod.slug, name: mod.name, game: mod.game })} aria-label={`Add a build of ${mod.name}`}>Add a build</Button>
          </Box>
        ))}
      </Box>
      <Team shelf={shelf} />
    </Box>
  );
}

function Team({ shelf }: { shelf: ShelfInfo }) {
  const work = useShelfWork();
  const [email, setEmail] = useState("");
  const own = shelf.pack === "";
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="body2" component="div">
        {own ? "On it: " : "The curators of its pack: "}
        {shelf.people.map((person, index) => (
          <span key={person.id}>{index > 0 && ", "}{person.name}{own && shelf.people.length > 1 && <Button onClick={() => work.let.mutate({ shelf: shelf.id, person: person.id })} aria-label={`Take ${person.name} off`}>take off</Button>}</span>
        ))}
      </Typography>
      {own && (
        <Box component="form" onSubmit={(event) => (event.preventDefault(), work.take.mutate({ shelf: shelf.id, email }), setEmail(""))} sx={{ display: "flex", gap: 1, mt: 0.5 }}>
          <TextField label="Email address of somebody" type="email" value={email} onChange={(event) => setEmail(event.target.value)} />
          <Button type="submit" variant="outlined" disabled={!email.trim()}>Take onto the team</Button>
        </Box>
      )}
      <Problem error={work.take.error ?? work.let.error} />
    </Box>
  );
}

function AddMod({ shelf, known, onDone }: { shelf: ShelfInfo; known: { slug: string; name: string; game: string }; onDone: () => void }) {
  const games = useGames().data?.games ?? [];
  const work = useShelfWork();
  const [gameSlug, setGame] = useState(known.game || (games[0]?.slug ?? ""));
  const [upload, setUpload] = useState<UploadInfo>();
  const [error, setError] = useState<unknown>(null);
  const stop = useRef(new AbortController());
  const game: Game | undefined = games.find((one) => one.slug === gameSlug) ?? games[0];
  if (!game) return null;
  const send = async (file: File) => {
    setError(null);
    try {
      const sent = await sendFile(file, game.slug, setUpload, stop.current.signal);
      setUpload(await judged(sent, stop.current.signal));
    } catch (problem) {
      setError(problem);
    }
  };
  const moving = upload && (upload.state === "receiving" || upload.state === "looking");
  return (
    <Box sx={{ maxWidth: 560, py: 1.5 }}>
      {known.name && <Typography variant="h3" gutterBottom>A further build of {known.name}</Typography>}
      <Box sx={{ display: "flex", gap: 1 }}>
        <TextField select label="Game" value={game.slug} disabled={known.game !== ""} onChange={(event) => (setGame(event.target.value), setUpload(undefined))} sx={{ minWidth: 160 }}>
          {games.map((one) => <MenuItem key={one.slug} value={one.slug}>{one.name}</MenuItem>)}
        </TextField>
        <FileButton label="File of the mod" onFile={(file) => void send(file)}>Choose a file</FileButton>
      </Box>
      <Typography variant="body2" color="textSecondary" role="status">{moving ? `${upload.state === "looking" ? "Looking into" : "Sending"} ${upload.name}: ${size(upload.received)} of ${size(upload.size)}` : "Without a file, it is only recorded."}</Typography>
      <Problem error={error ?? work.put.error} />
      {upload?.state === "refused" && <Alert severity="error">{upload.message}</Alert>}
      {upload?.known && <Alert severity="info">The catalogue has this file: it is {upload.known.name} {upload.known.version}.</Alert>}
      {!moving && !upload?.known && upload?.state !== "refused" && (
        <OwnModForm key={upload?.id ?? game.slug} game={game} upload={upload} known={known.slug ? known : undefined} busy={work.put.isPending} onPut={(facts) => work.put.mutate({ shelf: shelf.id, body: { ...facts, game: game.slug } }, { onSuccess: onDone })} />
      )}
    </Box>
  );
}
