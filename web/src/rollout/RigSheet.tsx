import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useSignOff } from "../api/queries";
import type { Draft, RigOnRoad } from "../api/schema";
import { Copyable, Fact, Mono, Problem, Sheet, Time } from "../parts/common";
import { StateMark } from "../parts/marks";

const MEANING: Record<RigOnRoad["state"], string> = {
  "in step": "It has exactly what the release has.",
  behind: "It is on an older release, unaltered. A sync brings it up.",
  strayed: "It differs from its release. A sync sets aside what differs and brings it back.",
  waiting: "A person has to fetch a file or do a step before it is complete.",
  silent: "It has not reported for more than two weeks.",
};

interface Props {
  rig: RigOnRoad;
  draft: Draft;
  onClose: () => void;
  wide: boolean;
  onWide: () => void;
}

export function RigSheet({ rig, draft, onClose, wide, onWide }: Props) {
  const signOff = useSignOff(draft.slug);
  const title = (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
      <StateMark state={rig.state} side={rig.side} />
      <Typography variant="h2" noWrap>{rig.name}</Typography>
    </Box>
  );
  const foot = draft.role !== "member" && (
    <Button variant="outlined" color="error" onClick={() => signOff.mutate(rig.id, { onSuccess: onClose })} disabled={signOff.isPending}>Sign this rig off</Button>
  );
  return (
    <Sheet title={title} onClose={onClose} wide={wide} onWide={onWide} foot={foot}>
      <Problem error={signOff.error} />
      <Typography gutterBottom><b>{rig.state}</b>. {MEANING[rig.state]}</Typography>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5, my: 1.5 }}>
        <Fact label="Person">{rig.person || "came aboard without an account"}</Fact>
        <Fact label="Kind">{rig.side === "server" ? "server" : "player"}</Fact>
        <Fact label="On release"><Mono>{rig.at || "none yet"}</Mono></Fact>
        <Fact label="Reported">{rig.reported ? <Time at={rig.reported} /> : "not yet"}</Fact>
        <Fact label="Came aboard"><Time at={rig.joined} /></Fact>
      </Box>
      {rig.details.length > 0 && (
        <>
          <Typography variant="h3" gutterBottom>What differs</Typography>
          <Box component="ul" sx={{ pl: 2.5, mt: 0 }}>
            {rig.details.slice(0, 200).map((detail) => <Box component="li" key={detail} sx={{ overflowWrap: "anywhere" }}>{detail}</Box>)}
          </Box>
        </>
      )}
      {rig.state !== "in step" && (
        <>
          <Typography gutterBottom>Its owner brings it in step with this, in the game's folder:</Typography>
          <Copyable text="convoy sync" what="command" />
        </>
      )}
    </Sheet>
  );
}
