// A member's own rigs: how each stands, and the one thing to do about it.
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useMyRigs } from "../api/queries";
import type { MyRig, RigOnRoad, State } from "../api/schema";
import { Column, Copyable, Empty, Problem, Time, Waiting } from "../parts/common";
import { StateMark } from "../parts/marks";

const TO_DO: Record<State, string> = {
  "in step": "Nothing to do. You can join tonight.",
  behind: "There is a newer release. Bring the rig up with this, in the game's folder:",
  strayed: "Something differs from the release. This brings it back; what differs is set aside, not deleted:",
  waiting: "Something is left for you to do by hand:",
  silent: "This rig has not reported for a while. Let it report with this, in the game's folder:",
};

export function MyRigs() {
  const rigs = useMyRigs();
  return (
    <Column>
      <Typography variant="h1" gutterBottom>My rigs</Typography>
      <Problem error={rigs.error} again={() => void rigs.refetch()} />
      {!rigs.data && !rigs.error && <Waiting what="Asking where your rigs are" />}
      {rigs.data?.rigs.length === 0 && (
        <Empty title="No rigs yet">A rig is a game folder that follows a pack. Open the join page somebody sent you, sign in there, and paste its command in the game's folder.</Empty>
      )}
      {rigs.data?.rigs.map((mine) => mine.road.rigs.map((rig) => <Rig key={rig.id} mine={mine} rig={rig} />))}
    </Column>
  );
}

function Rig({ mine, rig }: { mine: MyRig; rig: RigOnRoad }) {
  return (
    <Box component="section" aria-label={rig.name} sx={{ py: 2.5, borderTop: 1, borderColor: "divider" }}>
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
        <StateMark state={rig.state} side={rig.side} large={30} />
        <Box>
          <Typography variant="h2">{rig.name}: {rig.state}</Typography>
          <Typography color="textSecondary">
            {mine.pack_name}{rig.at && `, on ${rig.at}`}, reported {rig.reported ? <Time at={rig.reported} /> : "not yet"}
          </Typography>
        </Box>
      </Box>
      <Typography sx={{ mt: 1.5, mb: 1, fontSize: "1.1rem" }}>{TO_DO[rig.state]}</Typography>
      {rig.details.length > 0 && (
        <Box component="ul" sx={{ pl: 2.5, mt: 0 }}>
          {rig.details.slice(0, 20).map((detail) => <Box component="li" key={detail} sx={{ overflowWrap: "anywhere" }}>{detail}</Box>)}
        </Box>
      )}
      {rig.state !== "in step" && <Copyable text={rig.state === "silent" ? "convoy status" : "convoy sync"} what="command" large />}
    </Box>
  );
}
