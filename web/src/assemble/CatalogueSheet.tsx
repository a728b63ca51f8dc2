// The catalogue in place: search, and for every result whether it suits the draft and why not.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useMods } from "../api/queries";
import type { ModRow } from "../api/schema";
import { Problem, Sheet, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { GradeMark } from "../parts/marks";
import { count } from "../parts/words";
import { AddPanel } from "./AddPanel";
import type { Desk } from "./Assemble";

const FIT_GRADE = { fits: "fine", "older-build": "note", "no-build": "stop", "already-in": "fine" } as const;

export function CatalogueSheet({ desk }: { desk: Desk }) {
  const { draft, open } = desk;
  const [params] = useSearchParams();
  const text = params.get("q") ?? "";
  const [typed, setTyped] = useState(text);
  const [adding, setAdding] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const mods = useMods(draft.slug, draft.game, text);
  useEffect(() => {
    const timer = setTimeout(() => typed !== text && open({ q: typed }), 150);
    return () => clearTimeout(timer);
  });
  useEffect(() => field.current?.focus(), []);
  const title = (
    <TextField
      fullWidth
      inputRef={field}
      placeholder={`Search the catalogue of ${draft.game_name}`}
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      slotProps={{ htmlInput: { "aria-label": "Search the catalogue", "data-search": true } }}
    />
  );
  return (
    <Sheet title={title} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Problem error={mods.error} again={() => void mods.refetch()} />
      {!mods.data && !mods.error && <Waiting what="Looking through the catalogue" />}
      {mods.data && (
        <>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
            {mods.data.total === 0 ? "Nothing in the catalogue matches. Try fewer letters." : text ? `${count(mods.data.total, "mod")}, best match first` : `${count(mods.data.total, "mod")}, most installed first`}
          </Typography>
          <Box component="ul" aria-label="Results" sx={{ listStyle: "none", m: 0, p: 0 }}>
            {mods.data.mods.map((mod) => (
              <Result key={mod.slug} mod={mod} desk={desk} adding={adding === mod.slug} onAdd={() => setAdding(adding === mod.slug ? "" : mod.slug)} />
            ))}
          </Box>
          {mods.data.total > mods.data.mods.length && <Typography variant="body2" color="textSecondary" sx={{ py: 1 }}>The first {mods.data.mods.length} are shown. Type to narrow them down.</Typography>}
        </>
      )}
    </Sheet>
  );
}

function Result({ mod, desk, adding, onAdd }: { mod: ModRow; desk: Desk; adding: boolean; onAdd: () => void }) {
  const fit = mod.fit;
  const inDraft = fit?.answer === "already-in";
  return (
    <Box component="li" data-mod={mod.slug} sx={{ py: 1, borderBottom: 1, borderColor: "divider" }}>
      <Box sx={{ display: "flex", gap: 1.25 }}>
        <Emblem slug={mod.slug} large={28} />
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography component="button" onClick={() => desk.open({ sheet: "mod", sel: mod.slug })} sx={{ all: "unset", cursor: "pointer", fontWeight: 600, "&:hover": { textDecoration: "underline" }, "&:focus-visible": { outline: "2px solid" } }}>{mod.name}</Typography>
          <Typography variant="body2" color="textSecondary">{mod.summary}</Typography>
          {fit && (
            <Box sx={{ display: "flex", gap: 0.75, alignItems: "center", mt: 0.25 }}>
              <GradeMark grade={FIT_GRADE[fit.answer as keyof typeof FIT_GRADE] ?? "note"} label={fit.answer.replace("-", " ")} />
              <Typography variant="caption">{fit.reason}</Typography>
            </Box>
          )}
        </Box>
        {desk.mayEdit && !inDraft && (
          <Button variant={adding ? "text" : "outlined"} onClick={onAdd} aria-expanded={adding} aria-label={adding ? `Do not add ${mod.name}` : `Add ${mod.name}`} sx={{ alignSelf: "start" }}>
            {adding ? "Not now" : "Add"}
          </Button>
        )}
      </Box>
      {adding && !inDraft && (
        <Box sx={{ mt: 1, ml: 4.5 }}>
          <AddPanel desk={desk} mods={[mod.slug]} onDone={onAdd} />
        </Box>
      )}
    </Box>
  );
}
