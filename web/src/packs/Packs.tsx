// The packs one has a part in: a ruled list, each with its road.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { Link as To, useSearchParams } from "react-router";
import { usePacks } from "../api/queries";
import type { PackRow } from "../api/schema";
import { Empty, Mono, Problem, Waiting } from "../parts/common";
import { PackMark } from "../parts/Emblem";
import { RoadView, summary } from "../parts/RoadView";
import { count } from "../parts/words";

export function Packs() {
  const packs = usePacks();
  const [params, setParams] = useSearchParams();
  const filter = params.get("filter") ?? "";
  if (packs.error) return <Problem error={packs.error} again={() => void packs.refetch()} />;
  if (!packs.data) return <Waiting what="Fetching your packs" />;
  const shown = packs.data.packs.filter((pack) => pack.name.toLowerCase().includes(filter.toLowerCase()));
  return (
    <Box sx={{ maxWidth: 1280, mx: "auto", px: { xs: 2, md: 3 }, py: 2.5 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 1.5, flexWrap: "wrap" }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Packs
        </Typography>
        {packs.data.packs.length > 8 && (
          <TextField placeholder="Filter by name" value={filter} onChange={(event) => setParams(event.target.value ? { filter: event.target.value } : {}, { replace: true })} slotProps={{ htmlInput: { "aria-label": "Filter by name" } }} />
        )}
        <Button component={To} to="/new" variant="contained">
          New pack
        </Button>
      </Box>
      {packs.data.packs.length === 0 ? (
        <Empty title="No packs yet">
          <Typography gutterBottom>
            A pack is a list of mods that a group plays with. Begin one here, or come aboard somebody else's with the boarding code they gave you.
          </Typography>
          <Button component={To} to="/new" variant="contained">
            Begin a pack
          </Button>
        </Empty>
      ) : (
        labels(shown).map((label) => (
          <Box component="section" key={label} aria-label={label || "Packs"} sx={{ mb: 2 }}>
            {label && <Typography variant="h2">{label}</Typography>}
            <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, borderTop: 2, borderColor: "text.primary" }}>
              {shown.filter((pack) => pack.label === label).map((pack) => <Row key={pack.slug} pack={pack} />)}
            </Box>
          </Box>
        ))
      )}
      {shown.length === 0 && packs.data.packs.length > 0 && <Typography sx={{ p: 2 }}>No pack has this in its name.</Typography>}
    </Box>
  );
}

/** The labels that packs stand under, by name; those without one come first. */
function labels(packs: PackRow[]): string[] {
  return [...new Set(packs.map((pack) => pack.label))].sort((one, two) => one.localeCompare(two));
}

function Row({ pack }: { pack: PackRow }) {
  return (
    <Box component="li" sx={{ display: "grid", gridTemplateColumns: { xs: "44px 1fr", md: "44px 300px 1fr" }, columnGap: 2, rowGap: 1, alignItems: "center", py: 1.5, borderBottom: 1, borderColor: "divider" }}>
      <PackMark emblem={pack.emblem} picture={pack.picture} large={40} />
      <Box sx={{ minWidth: 0 }}>
        <Link component={To} to={`/packs/${pack.slug}/${pack.role === "member" ? "roll-out" : "assemble"}`} color="textPrimary" sx={{ fontWeight: 700, fontSize: "1.1rem" }}>
          {pack.name}
        </Link>
        <Typography variant="body2" color="textSecondary">
          {pack.game_name} <Mono>{pack.ground}</Mono>
        </Typography>
        <Typography variant="body2" color="textSecondary">
          {count(pack.entries, "entry", "entries")}, {pack.release ? <>latest release <Mono strong>{pack.release}</Mono></> : "no release yet"}, {summary(pack.road)}
        </Typography>
        <Typography variant="caption" color="textSecondary">
          You are {pack.role === "owner" ? "its owner" : `a ${pack.role}`}
        </Typography>
      </Box>
      <Box sx={{ gridColumn: { xs: "1 / -1", md: "auto" }, minWidth: 0 }}>
        {pack.road.milestones.length ? <RoadView road={pack.road} small /> : <Typography color="textSecondary">The road begins with the first release.</Typography>}
      </Box>
    </Box>
  );
}
