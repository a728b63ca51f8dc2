// An entry of the draft, whole: why it is there, its build, pin, note, and taking it out.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useMod } from "../api/queries";
import type { EntryRow } from "../api/schema";
import { Problem, Sheet, Waiting } from "../parts/common";
import type { Desk } from "./Assemble";
import { BuildList } from "./BuildList";
import { ModFacts, SheetTitle } from "./ModSheet";

export function EntrySheet({ desk, entry }: { desk: Desk; entry: EntryRow }) {
  const found = useMod(desk.draft.slug, desk.draft.game, entry.mod);
  const { make, mayEdit } = desk;
  return (
    <Sheet
      title={<SheetTitle slug={entry.mod} name={entry.name} />}
      onClose={desk.close}
      wide={desk.wide}
      onWide={desk.onWide}
      foot={
        mayEdit && (
          <Box sx={{ display: "flex", gap: 1 }}>
            <Button variant="outlined" onClick={() => make({ do: "set-enabled", mod: entry.mod, enabled: !entry.enabled })}>{entry.enabled ? "Turn off" : "Turn on"}</Button>
            <Button variant="outlined" color="error" onClick={() => desk.open({ sheet: "remove", sel: entry.mod })}>Remove</Button>
          </Box>
        )
      }
    >
      <Why entry={entry} desk={desk} />
      {mayEdit && (
        <>
          <FormControlLabel control={<Switch size="small" checked={entry.optional} onChange={(event) => make({ do: "set-optional", mod: entry.mod, optional: event.target.checked })} />} label="Members may leave it out" />
          <PinField key={`pin-${entry.pin}`} entry={entry} desk={desk} />
          <NoteField key={`note-${entry.note}`} entry={entry} desk={desk} />
        </>
      )}
      {!mayEdit && entry.note && <Typography gutterBottom>{entry.note}</Typography>}
      {found.error && <Problem error={found.error} again={() => void found.refetch()} />}
      {!found.data && !found.error && <Waiting what="Fetching its builds" />}
      {found.data && (
        <>
          <Typography variant="h3" sx={{ mt: 2 }}>Builds</Typography>
          <BuildList builds={found.data.builds} present={entry.version} action="Take" onTake={mayEdit && entry.pin === null ? (version) => make({ do: "set-build", mod: entry.mod, version }) : undefined} />
          {entry.pin !== null && mayEdit && <Typography variant="caption" color="textSecondary">Let the pin go to take another build.</Typography>}
          <Typography variant="h3" sx={{ mt: 2 }}>About</Typography>
          <ModFacts mod={found.data} />
        </>
      )}
    </Sheet>
  );
}

function Why({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  return (
    <Box sx={{ mb: 1 }}>
      {entry.chosen ? (
        <Typography>Chosen{entry.required_by.length ? `, and needed by ${entry.required_by.join(", ")}` : ""}.</Typography>
      ) : (
        <Typography>
          {entry.required_by.length ? `Came along because ${entry.required_by.join(", ")} ${entry.required_by.length > 1 ? "need" : "needs"} it.` : "Came along, and nothing needs it now."}{" "}
          {desk.mayEdit && <Button onClick={() => desk.make({ do: "set-chosen", mod: entry.mod, chosen: true })}>Keep it in any case</Button>}
        </Typography>
      )}
      {entry.needs.length > 0 && <Typography variant="body2" color="textSecondary">Needs {entry.needs.join(", ")}.</Typography>}
      {!entry.fits && entry.enabled && <Typography color="error">{entry.name} {entry.version} {entry.reason || "has no fitting build"}.</Typography>}
    </Box>
  );
}

function PinField({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [reason, setReason] = useState(entry.pin ?? "");
  const pinned = entry.pin !== null;
  return (
    <Box component="form" sx={{ display: "flex", gap: 1, my: 1 }} onSubmit={(event) => (event.preventDefault(), desk.make({ do: "set-pin", mod: entry.mod, pin: { reason: reason.trim() } }))}>
      <TextField fullWidth label={pinned ? `Pinned at ${entry.version}, because` : "Pin at this build, because"} value={reason} onChange={(event) => setReason(event.target.value)} slotProps={{ htmlInput: { maxLength: 300 } }} />
      {pinned && reason.trim() === entry.pin ? (
        <Button variant="outlined" onClick={() => desk.make({ do: "set-pin", mod: entry.mod, pin: null })}>Unpin</Button>
      ) : (
        <Button variant="outlined" type="submit" disabled={!reason.trim()}>Pin</Button>
      )}
    </Box>
  );
}

function NoteField({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [note, setNote] = useState(entry.note);
  const save = () => note !== entry.note && desk.make({ do: "set-note", mod: entry.mod, note });
  return <TextField fullWidth multiline maxRows={5} label="Note for curators" value={note} onChange={(event) => setNote(event.target.value)} onBlur={save} slotProps={{ htmlInput: { maxLength: 2000 } }} />;
}
