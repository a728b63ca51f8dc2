// Assemble: the waybill or the catalogue in its place, the side sheet, and the foot bar.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Link as To, useSearchParams } from "react-router";
import { useFindings } from "../api/queries";
import { count } from "../parts/words";
import { CopySheet, DetailsSheet, TextSheet, TurnOffSheet } from "./ActSheets";
import { BringSheet } from "./BringSheet";
import { Catalogue } from "./Catalogue";
import { Compare } from "./Compare";
import { useDesk, type Desk } from "./desk";
import { EntrySheet } from "./EntrySheet";
import { FootBar } from "./FootBar";
import { HistorySheet } from "./HistorySheet";
import { ModSheet } from "./ModSheet";
import { PasteSheet } from "./PasteSheet";
import { Refusals } from "./Refusals";
import { RemoveSheet } from "./RemoveSheet";
import { Waybill } from "./Waybill";

export function Assemble() {
  const work = useDesk();
  const { desk } = work;
  const [params] = useSearchParams();
  const look = params.get("look") ?? "";
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        <Box sx={{ flex: 1, minWidth: 0, display: { xs: params.get("sheet") ? "none" : "flex", md: "flex" }, flexDirection: "column" }}>
          <Refusals work={work} />
          {look === "" && <Verdict pack={desk.draft.slug} />}
          {look === "catalogue" ? <Catalogue desk={desk} /> : look === "compare" ? <Compare desk={desk} /> : <Waybill desk={desk} refused={work.refused?.about ?? []} />}
        </Box>
        <OpenSheet desk={desk} sheet={params.get("sheet") ?? ""} selected={params.get("sel") ?? ""} />
      </Box>
      <FootBar desk={desk} onUndo={work.onUndo} onRedo={work.onRedo} />
    </>
  );
}

/** That something stops the game is said where the curator works, with the way to the station that mends it. */
function Verdict({ pack }: { pack: string }) {
  const stops = useFindings(pack).data?.stops ?? 0;
  if (stops === 0) return null;
  return (
    <Alert severity="error" sx={{ borderRadius: 0, py: 0 }} action={<Button color="inherit" component={To} to={`/packs/${pack}/check`}>Mend at Check</Button>}>
      {count(stops, "stop")}: the game will not start with this draft.
    </Alert>
  );
}

function OpenSheet({ desk, sheet, selected }: { desk: Desk; sheet: string; selected: string }) {
  const entry = desk.draft.entries.find((one) => one.mod === selected);
  const mods = selected.split(",").filter(Boolean);
  switch (sheet) {
    case "history":
      return <HistorySheet desk={desk} />;
    case "paste":
      return <PasteSheet desk={desk} />;
    case "bring":
      return <BringSheet desk={desk} />;
    case "details":
      return <DetailsSheet key={desk.draft.revision} desk={desk} />;
    case "remove":
      return <RemoveSheet desk={desk} mods={mods} />;
    case "off":
      return <TurnOffSheet key={selected} desk={desk} mods={mods} />;
    case "copy":
      return <CopySheet key={selected} desk={desk} mods={mods} />;
    case "pin":
    case "note":
    case "label":
    case "group":
      return <TextSheet key={sheet + selected} desk={desk} mods={mods} what={sheet} />;
    case "mod":
      return entry ? <EntrySheet key={selected} desk={desk} entry={entry} /> : <ModSheet key={selected} desk={desk} mod={selected} />;
    default:
      return null;
  }
}
