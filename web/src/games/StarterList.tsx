// Starter collections of a game: what a new pack can begin with. Staff make one of a pack they curate.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useOfferStarter, usePacks, useStarters, useTakeBackStarter } from "../api/queries";
import type { Game } from "../api/schema";
import { Problem, Waiting } from "../parts/common";

export function StarterList({ game, staff }: { game: Game; staff: boolean }) {
  const starters = useStarters();
  const takeBack = useTakeBackStarter();
  const [offering, setOffering] = useState(false);
  if (starters.error) return <Problem error={starters.error} again={() => void starters.refetch()} />;
  if (!starters.data) return <Waiting what="Fetching the starter collections" />;
  const here = starters.data.starters.filter((one) => one.game === game.slug);
  return (
    <Box component="section" aria-label="Starter collections">
      <Typography variant="h2" sx={{ borderBottom: 2, borderColor: "text.primary" }}>Starter collections</Typography>
      {here.length === 0 && <Typography color="textSecondary" sx={{ py: 1 }}>None yet. A starter collection is a short list of mods that a new pack can begin with.</Typography>}
      {here.map((one) => (
        <Box key={one.id} sx={{ display: "flex", gap: 2, alignItems: "start", py: 1, borderBottom: 1, borderColor: "divider" }}>
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Typography sx={{ fontWeight: 700 }}>{one.name}</Typography>
            {one.about && <Typography variant="body2">{one.about}</Typography>}
            <Typography variant="body2" color="textSecondary">{one.mods.join(", ")}, and what they need.</Typography>
          </Box>
          {staff && <Button aria-label={`Take back ${one.name}`} disabled={takeBack.isPending} onClick={() => takeBack.mutate(one.id)}>Take back</Button>}
        </Box>
      ))}
      <Problem error={takeBack.error} />
      {staff && (offering ? <Offer game={game} onClose={() => setOffering(false)} /> : <Button sx={{ mt: 1 }} onClick={() => setOffering(true)}>Offer a pack as one</Button>)}
    </Box>
  );
}

function Offer({ game, onClose }: { game: Game; onClose: () => void }) {
  const packs = (usePacks().data?.packs ?? []).filter((pack) => pack.game === game.slug && pack.role !== "member");
  const offer = useOfferStarter();
  const [asked, setAsked] = useState({ pack: "", name: "", about: "" });
  if (packs.length === 0) {
    return (
      <Typography sx={{ py: 1 }}>
        You curate no pack of {game.name}. Begin one, choose its mods, and come back. <Button onClick={onClose}>Close</Button>
      </Typography>
    );
  }
  return (
    <Box component="form" aria-label="A new starter collection" sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1.3fr 2fr auto auto" }, gap: 1.5, mt: 1.5, alignItems: "start" }} onSubmit={(event) => { event.preventDefault(); offer.mutate(asked, { onSuccess: onClose }); }}>
      <TextField select label="Pack" value={asked.pack} onChange={(event) => setAsked({ ...asked, pack: event.target.value, name: asked.name || (packs.find((pack) => pack.slug === event.target.value)?.name ?? "") })}>
        {packs.map((pack) => <MenuItem key={pack.slug} value={pack.slug}>{pack.name}</MenuItem>)}
      </TextField>
      <TextField label="Name of the collection" value={asked.name} onChange={(event) => setAsked({ ...asked, name: event.target.value })} slotProps={{ htmlInput: { maxLength: 200 } }} />
      <TextField label="What it is for" value={asked.about} onChange={(event) => setAsked({ ...asked, about: event.target.value })} slotProps={{ htmlInput: { maxLength: 500 } }} />
      <Button type="submit" variant="contained" disabled={offer.isPending || !asked.pack || !asked.name.trim()}>{offer.isPending ? "Offering it" : "Offer"}</Button>
      <Button onClick={onClose}>Close</Button>
      <Box sx={{ gridColumn: "1 / -1" }}>
        <Typography variant="body2" color="textSecondary">The chosen mods of its draft, as they are now. Mods of private shelves are left out; one of the same name is replaced.</Typography>
        <Problem error={offer.error} />
      </Box>
    </Box>
  );
}
