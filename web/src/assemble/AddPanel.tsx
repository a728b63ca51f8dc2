// What adding mods would bring, at all levels and why, what could come instead, and one button that does it.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Radio from "@mui/material/Radio";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { previewAdd, type Edit } from "../api/queries";
import type { AddPreview, Alternatives, Extra } from "../api/schema";
import { Mono, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { count, size } from "../parts/words";
import type { Desk } from "./desk";

interface Props {
  desk: Desk;
  mods: string[];
  versions?: Record<string, string>;
  onDone: () => void;
}

export function AddPanel({ desk, mods, versions = {}, onDone }: Props) {
  const { draft } = desk;
  const [along, setAlong] = useState<Record<string, string>>({});
  const [extras, setExtras] = useState<string[]>([]);
  const wanted = [...mods, ...extras];
  const chosen = Object.values(along);
  const preview = useQuery({
    queryKey: ["pack", draft.slug, "draft", "preview-add", draft.revision, wanted, versions, chosen],
    queryFn: () => previewAdd(draft.slug, wanted, versions, chosen),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  if (preview.error) return <Problem error={preview.error} again={() => void preview.refetch()} />;
  if (!preview.data) return <Waiting what="Working out what comes along" />;
  const toggle = (mod: string) => setExtras((before) => (before.includes(mod) ? before.filter((one) => one !== mod) : [...before, mod]));
  return (
    <Preview
      preview={preview.data}
      extras={extras}
      onExtra={toggle}
      onInstead={(by, mod) => setAlong((before) => ({ ...before, [by]: mod }))}
      onAdd={(edit) => (desk.make(edit), onDone())}
    />
  );
}

interface PreviewProps {
  preview: AddPreview;
  extras: string[];
  onExtra: (mod: string) => void;
  onInstead: (by: string, mod: string) => void;
  onAdd: (edit: Edit) => void;
}

function Preview({ preview, extras, onExtra, onInstead, onAdd }: PreviewProps) {
  if (preview.explanation.length > 0) return <Impossible preview={preview} onAdd={onAdd} />;
  if (!preview.edit) return <Typography sx={{ py: 1 }}>It is in the draft already.</Typography>;
  const total = preview.coming.reduce((sum, one) => sum + one.size, 0);
  const along = preview.coming.filter((one) => !one.chosen).length;
  return (
    <Box data-preview="add">
      <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
        {along > 0 ? `${count(along, "mod")} it needs will come along:` : "It needs nothing more."}
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {preview.coming.map((one) => (
          <Box component="li" key={one.mod} sx={{ display: "flex", gap: 1, alignItems: "center", py: 0.5, pl: one.chosen ? 0 : 2, borderBottom: 1, borderColor: "divider" }}>
            <Emblem slug={one.mod} large={20} hollow={!one.chosen} />
            <Box sx={{ flex: 1, minWidth: 0 }}>
              {one.name} <Mono>{one.version}</Mono>
              {!one.chosen && one.required_by.length > 0 && (
                <Typography variant="caption" color="textSecondary" component="div">needed by {one.required_by.join(", ")}</Typography>
              )}
            </Box>
            <Mono>{size(one.size)}</Mono>
          </Box>
        ))}
        {preview.moving.map((one) => (
          <Box component="li" key={one.mod} sx={{ py: 0.5 }}>
            {one.name} moves from <Mono>{one.old}</Mono> to <Mono>{one.new}</Mono>, so that all fits.
          </Box>
        ))}
      </Box>
      {preview.alternatives.map((one) => <Instead key={`${one.by}-${one.choices.map((c) => c.mod).join()}`} alternatives={one} onInstead={onInstead} />)}
      <Extras suggested={preview.suggested} extras={extras} onExtra={onExtra} />
      <Button variant="contained" data-add="true" sx={{ mt: 1.25 }} onClick={() => onAdd(preview.edit as Edit)}>
        Add {count(preview.coming.length, "mod")}, {size(total)}
      </Button>
    </Box>
  );
}

function Impossible({ preview, onAdd }: { preview: AddPreview; onAdd: (edit: Edit) => void }) {
  return (
    <>
      <Alert severity="error" sx={{ my: 1 }}>
        It cannot be added to this draft.
        <Box component="ul" sx={{ pl: 2.5, my: 0.5 }}>
          {preview.explanation.map((line) => <li key={line}>{line}</li>)}
        </Box>
      </Alert>
      {preview.ways.length > 0 && (
        <Box data-preview="ways">
          <Typography variant="h3">It could be added so</Typography>
          {preview.ways.map((way) => (
            <Box key={way.label} sx={{ display: "flex", gap: 1, alignItems: "center", py: 0.5, borderBottom: 1, borderColor: "divider" }}>
              <Typography variant="body2" sx={{ flex: 1 }}>{way.label}</Typography>
              <Button variant="outlined" onClick={() => onAdd(way.edit as Edit)} aria-label={`Do so and add: ${way.label}`}>Do so and add</Button>
            </Box>
          ))}
        </Box>
      )}
    </>
  );
}

/** A need that several mods could meet: which of them comes. */
function Instead({ alternatives, onInstead }: { alternatives: Alternatives; onInstead: (by: string, mod: string) => void }) {
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mt: 1.25 }}>
      <Typography component="legend" variant="body2" sx={{ fontWeight: 600 }}>{alternatives.by_name} is content with any of these</Typography>
      {alternatives.choices.map((choice) => (
        <Box key={choice.mod}>
          <FormControlLabel
            control={<Radio size="small" sx={{ py: 0.25 }} checked={choice.taken} disabled={choice.version === null} onChange={() => onInstead(alternatives.by, choice.mod)} />}
            label={<Typography variant="body2">{choice.name} {choice.version ? <><Mono>{choice.version}</Mono>, {size(choice.size)}</> : "(no build that fits)"}</Typography>}
          />
        </Box>
      ))}
    </Box>
  );
}

function Extras({ suggested, extras, onExtra }: { suggested: Extra[]; extras: string[]; onExtra: (mod: string) => void }) {
  if (suggested.length === 0 && extras.length === 0) return null;
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mt: 1.25 }}>
      <Typography component="legend" variant="body2" sx={{ fontWeight: 600 }}>Goes well with it</Typography>
      {extras.map((mod) => (
        <Box key={mod}>
          <FormControlLabel control={<Checkbox size="small" sx={{ py: 0.25 }} checked onChange={() => onExtra(mod)} />} label={<Typography variant="body2">{mod}</Typography>} />
        </Box>
      ))}
      {suggested.map((extra) => (
        <Box key={extra.mod}>
          <FormControlLabel
            control={<Checkbox size="small" sx={{ py: 0.25 }} checked={false} disabled={extra.version === null} onChange={() => onExtra(extra.mod)} slotProps={{ input: { "aria-label": `Also add ${extra.name}` } }} />}
            label={<Typography variant="body2">{extra.name}: {extra.version ? extra.summary : "no build that fits"}</Typography>}
          />
        </Box>
      ))}
    </Box>
  );
}
