// Roll out: the road with every rig, the boarding code, and who needs a hand.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Tab from "@mui/material/Tab";
import Tabs from "@mui/material/Tabs";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as To, useOutletContext } from "react-router";
import { useRoad } from "../api/queries";
import type { Draft, RigOnRoad, Road, State } from "../api/schema";
import { useAddress } from "../parts/address";
import { Empty, Mono, Problem, Time, Waiting } from "../parts/common";
import { STATE_COLOUR, StateMark } from "../parts/marks";
import { RoadView, summary } from "../parts/RoadView";
import { Codes } from "./Codes";
import { People } from "./People";
import { RigSheet } from "./RigSheet";

const ORDER: State[] = ["strayed", "waiting", "behind", "silent", "in step"];

export function RollOut() {
  const { draft } = useOutletContext<{ draft: Draft }>();
  const road = useRoad(draft.slug);
  const [params, make] = useAddress();
  const [wide, setWide] = useState(false);
  const change = (key: string, value: string | null) =>
    make((next) => (value ? next.set(key, value) : next.delete(key)));
  if (road.error) return <Problem error={road.error} again={() => void road.refetch()} />;
  if (!road.data) return <Waiting what="Asking where the rigs are" />;
  const selected = road.data.rigs.find((rig) => String(rig.id) === params.get("rig"));
  const curator = draft.role !== "member";
  if (road.data.milestones.length === 0) {
    return (
      <Empty title="Nothing to roll out yet">
        <Typography gutterBottom>The road begins with the first release. After it, a boarding code brings members aboard.</Typography>
        {curator && <Button component={To} to={`/packs/${draft.slug}/publish`} variant="contained">Publish the first release</Button>}
      </Empty>
    );
  }
  const tab = params.get("tab") ?? "rigs";
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
      <Box sx={{ flex: 1, minWidth: 0, overflow: "auto", px: { xs: 2, md: 3 }, py: 2, display: { xs: selected ? "none" : "block", md: "block" } }}>
        <Headline road={road.data} />
        <RoadView road={road.data} selected={selected?.id ?? null} onOpen={(rig) => change("rig", String(rig.id))} />
        <Legend />
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", lg: curator && !selected ? "minmax(0, 1fr) 400px" : "1fr" }, columnGap: 4, rowGap: 3, mt: 1 }}>
          <section>
            <Tabs value={tab} onChange={(_event, value: string) => change("tab", value)} sx={{ minHeight: 38, borderBottom: 1, borderColor: "divider" }}>
              <Tab value="rigs" label={`Rigs (${road.data.rigs.length})`} sx={{ minHeight: 38 }} />
              <Tab value="people" label="People" sx={{ minHeight: 38 }} />
            </Tabs>
            {tab === "rigs" ? <Rigs rigs={road.data.rigs} selected={selected?.id} filter={params.get("filter") ?? ""} onFilter={(text) => change("filter", text)} onOpen={(rig) => change("rig", String(rig.id))} /> : <People draft={draft} />}
          </section>
          {curator && <Codes pack={draft.slug} />}
        </Box>
      </Box>
      {selected && <RigSheet key={selected.id} rig={selected} draft={draft} onClose={() => change("rig", null)} wide={wide} onWide={() => setWide(!wide)} />}
    </Box>
  );
}

function Headline({ road }: { road: Road }) {
  const target = road.milestones.find((milestone) => milestone.target);
  const odd = ORDER.slice(0, 4).map((state) => [state, road.rigs.filter((rig) => rig.state === state).length] as const).filter(([, number]) => number > 0);
  return (
    <Box sx={{ display: "flex", alignItems: "baseline", gap: 2, flexWrap: "wrap", mb: 1 }}>
      <Typography variant="h1">{road.rigs.length ? `${summary(road)} with ${target?.version ?? "the steady release"}` : "No rigs aboard yet"}</Typography>
      <Typography color="textSecondary">{odd.map(([state, number]) => `${number} ${state}`).join(", ")}</Typography>
    </Box>
  );
}

function Legend() {
  return (
    <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap", alignItems: "center", my: 1, fontSize: "0.82rem", color: "text.secondary" }}>
      {(["in step", "behind", "strayed", "waiting", "silent"] as State[]).map((state) => (
        <Box key={state} sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
          <StateMark state={state} large={14} /> {state}
        </Box>
      ))}
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center" }}><StateMark state="in step" side="server" large={14} /> a server</Box>
    </Box>
  );
}

interface RigsProps {
  rigs: RigOnRoad[];
  selected: number | undefined;
  filter: string;
  onFilter: (text: string) => void;
  onOpen: (rig: RigOnRoad) => void;
}

function Rigs({ rigs, selected, filter, onFilter, onOpen }: RigsProps) {
  if (rigs.length === 0) return <Typography sx={{ py: 2 }}>Hand out a boarding code; each rig shows up here as soon as it has come aboard.</Typography>;
  const shown = [...rigs]
    .filter((rig) => `${rig.name} ${rig.person} ${rig.state} ${rig.at} ${rig.side}`.toLowerCase().includes(filter.toLowerCase()))
    .sort((one, two) => ORDER.indexOf(one.state) - ORDER.indexOf(two.state) || one.name.localeCompare(two.name));
  return (
    <>
      {rigs.length > 10 && <TextField placeholder="Filter rigs" value={filter} onChange={(event) => onFilter(event.target.value)} sx={{ my: 1, width: 240 }} slotProps={{ htmlInput: { "aria-label": "Filter rigs" } }} />}
      <Box component="ul" aria-label="Rigs" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {shown.map((rig) => (
          <Box component="li" key={rig.id} data-rig={rig.name} sx={{ display: "flex", gap: 1.25, alignItems: "center", py: 0.6, px: 0.5, borderBottom: 1, borderColor: "divider", bgcolor: rig.id === selected ? "selected" : undefined }}>
            <StateMark state={rig.state} side={rig.side} large={18} />
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Link component="button" color="textPrimary" onClick={() => onOpen(rig)} sx={{ fontWeight: 600, textAlign: "left" }}>{rig.name}</Link>
              <Typography variant="caption" color="textSecondary" component="div" noWrap>{[rig.person, rig.details[0]].filter(Boolean).join(" · ")}</Typography>
            </Box>
            <Box component="span" data-state sx={{ color: STATE_COLOUR[rig.state], fontWeight: 600, width: 64 }}>{rig.state}</Box>
            <Box component="span" sx={{ width: 64 }}><Mono>{rig.at || "none"}</Mono></Box>
            <Typography variant="body2" color="textSecondary" sx={{ width: 104, textAlign: "right" }}>{rig.reported ? <Time at={rig.reported} /> : "not yet"}</Typography>
          </Box>
        ))}
      </Box>
      {shown.length === 0 && <Typography sx={{ py: 2 }}>No rig matches this filter.</Typography>}
    </>
  );
}
