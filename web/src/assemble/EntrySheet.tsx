// An entry of the draft, whole: why it is there, its build, pin, sides, path rules, note, and taking it out.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useMod } from "../api/queries";
import type { EntryRow } from "../api/schema";
import { Copyable, Problem, Sheet, Waiting } from "../parts/common";
import { sides } from "../parts/words";
import type { Desk } from "./desk";
import { BuildList } from "./BuildList";
import { ModFacts, MoreOfMod, SheetTitle } from "./ModSheet";
import { PathRules } from "./PathRules";

export const SIDES = {
  both: { client: "required", server: "required" },
  client: { client: "required", server: "unsupported" },
  server: { client: "unsupported", server: "required" },
} as const;

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
          <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
            <Button variant="outlined" onClick={() => (entry.enabled ? desk.turnOff([entry.mod]) : make({ do: "set-enabled", mod: entry.mod, enabled: true }))}>{entry.enabled ? "Turn off" : "Turn on"}</Button>
            <Button variant="outlined" onClick={() => desk.open({ sheet: "copy", sel: entry.mod })}>Copy to another pack</Button>
            <Button variant="outlined" color="error" onClick={() => desk.open({ sheet: "remove", sel: entry.mod })}>Remove</Button>
          </Box>
        )
      }
    >
      <Why entry={entry} desk={desk} />
      {mayEdit && (
        <>
          <PinField key={`pin-${entry.pin}`} entry={entry} desk={desk} />
          <Offered key={`offered-${entry.one_of}`} entry={entry} desk={desk} />
          <SideField entry={entry} desk={desk} />
          <LabelField key={`label-${entry.label}`} entry={entry} desk={desk} />
          <NoteField key={`note-${entry.note}`} entry={entry} desk={desk} />
          {entry.version && <PathRules key={`rules-${entry.mod}-${entry.version}`} entry={entry} desk={desk} />}
        </>
      )}
      {!mayEdit && entry.note && <Typography gutterBottom>{entry.note}</Typography>}
      {found.error && <Problem error={found.error} again={() => void found.refetch()} />}
      {!found.data && !found.error && <Waiting what="Fetching the mod" />}
      {found.data && (
        <>
          <Typography variant="h3" sx={{ mt: 2 }}>Builds</Typography>
          {entry.pin !== null && <Typography variant="body2" color="textSecondary">Let the pin go to take another build.</Typography>}
          <BuildList
            builds={found.data.builds}
            present={entry.version}
            action="Choose"
            onTake={mayEdit && entry.pin === null ? (version) => make({ do: "set-build", mod: entry.mod, version }) : undefined}
          />
          {entry.sha256 && <Box sx={{ mt: 1.5 }}><Copyable text={entry.sha256} what="checksum" /></Box>}
          <Typography variant="h3" sx={{ mt: 2 }}>Facts</Typography>
          <ModFacts mod={found.data} />
          <MoreOfMod mod={found.data} desk={desk} version={entry.version} />
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

/** Whether members may leave it out, whether they have it until they say so, and what it is an alternative to. */
function Offered({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [group, setGroup] = useState(entry.one_of);
  const set = (facts: { optional?: boolean; by_default?: boolean; one_of?: string }) =>
    desk.make({ do: "set-optional", mod: entry.mod, optional: entry.optional, by_default: entry.by_default, one_of: entry.one_of, ...facts });
  const groups = [...new Set(desk.draft.entries.map((one) => one.one_of).filter(Boolean))];
  return (
    <Box sx={{ my: 0.5 }}>
      <FormControlLabel control={<Switch size="small" checked={entry.optional} onChange={(event) => set({ optional: event.target.checked })} />} label="Members may leave it out" />
      {entry.optional && (
        <Box sx={{ pl: 5 }}>
          <FormControlLabel control={<Switch size="small" checked={entry.by_default} onChange={(event) => set({ by_default: event.target.checked })} />} label="They have it until they say otherwise" />
          <TextField
            fullWidth
            label="Choose one of (name of the group)"
            value={group}
            onChange={(event) => setGroup(event.target.value)}
            onBlur={() => group.trim() !== entry.one_of && set({ one_of: group.trim() })}
            onKeyDown={(event) => event.key === "Enter" && set({ one_of: group.trim() })}
            helperText={groups.length ? `In use: ${groups.join(", ")}. A member has exactly one of a group.` : "A member has exactly one of the entries with the same group."}
            slotProps={{ htmlInput: { maxLength: 100 } }}
          />
        </Box>
      )}
    </Box>
  );
}

function SideField({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const now = entry.own_sides ? sides(entry.sides) : "";
  return (
    <TextField
      select
      fullWidth
      label="Side"
      value={now}
      onChange={(event) => desk.make({ do: "set-sides", mod: entry.mod, sides: SIDES[event.target.value as keyof typeof SIDES] ?? null })}
      sx={{ my: 1 }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">as the mod says{entry.own_sides ? "" : `: ${sides(entry.sides)}`}</MenuItem>
      <MenuItem value="both">client and server</MenuItem>
      <MenuItem value="client">client only</MenuItem>
      <MenuItem value="server">server only</MenuItem>
    </TextField>
  );
}

function LabelField({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [label, setLabel] = useState(entry.label);
  const keep = () => label.trim() !== entry.label && desk.make({ do: "set-label", mod: entry.mod, label: label.trim() });
  return <TextField fullWidth label="Label" value={label} onChange={(event) => setLabel(event.target.value)} onBlur={keep} onKeyDown={(event) => event.key === "Enter" && keep()} sx={{ my: 1 }} slotProps={{ htmlInput: { maxLength: 60 } }} />;
}

function NoteField({ entry, desk }: { entry: EntryRow; desk: Desk }) {
  const [note, setNote] = useState(entry.note);
  const save = () => note !== entry.note && desk.make({ do: "set-note", mod: entry.mod, note });
  return <TextField fullWidth multiline maxRows={5} label="Note for curators" value={note} onChange={(event) => setNote(event.target.value)} onBlur={save} sx={{ my: 1 }} slotProps={{ htmlInput: { maxLength: 2000 } }} />;
}
