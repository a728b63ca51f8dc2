// What adding mods would bring, at all levels and why, and one button that does it.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { previewAdd, type Edit } from "../api/queries";
import type { AddPreview } from "../api/schema";
import { Mono, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { count, size } from "../parts/words";
import type { Desk } from "./Assemble";

interface Props {
  desk: Desk;
  mods: string[];
  version?: string;
  onDone: () => void;
}

export function AddPanel({ desk, mods, version, onDone }: Props) {
  const { draft } = desk;
  const chosen: Record<string, string> = version && mods[0] ? { [mods[0]]: version } : {};
  const preview = useQuery({
    queryKey: ["pack", draft.slug, "draft", "preview-add", draft.revision, mods, version ?? ""],
    queryFn: () => previewAdd(draft.slug, mods, chosen),
    staleTime: Infinity,
  });
  if (preview.error) return <Problem error={preview.error} again={() => void preview.refetch()} />;
  if (!preview.data) return <Waiting what="Working out what comes along" />;
  return <Preview preview={preview.data} onAdd={(edit) => (desk.make(edit), onDone())} />;
}

function Preview({ preview, onAdd }: { preview: AddPreview; onAdd: (edit: Edit) => void }) {
  if (preview.explanation.length > 0) {
    return (
      <Alert severity="error" sx={{ my: 1 }}>
        It cannot be added to this draft.
        <Box component="ul" sx={{ pl: 2.5, my: 0.5 }}>
          {preview.explanation.map((line) => <li key={line}>{line}</li>)}
        </Box>
      </Alert>
    );
  }
  if (!preview.edit) return <Typography sx={{ py: 1 }}>It is in the draft already.</Typography>;
  const total = preview.coming.reduce((sum, one) => sum + one.size, 0);
  const along = preview.coming.filter((one) => !one.chosen).length;
  return (
    <Box data-preview="add">
      <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
        {along > 0 ? `${count(along, "mod")} it needs will come along:` : "It needs nothing that is not there."}
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
      <Button variant="contained" sx={{ mt: 1.25 }} onClick={() => onAdd(preview.edit as Edit)}>
        Add {count(preview.coming.length, "mod")}, {size(total)}
      </Button>
      {preview.suggested.length > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>Goes well with: {preview.suggested.join(", ")}</Typography>
      )}
    </Box>
  );
}
