// Taking entries out: what still needs them, what nothing else needs then, and one button for all.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { previewRemove, type Edit } from "../api/queries";
import { Problem, Sheet, Waiting } from "../parts/common";
import { count } from "../parts/words";
import type { Desk } from "./desk";

export function RemoveSheet({ desk, mods }: { desk: Desk; mods: string[] }) {
  const { draft } = desk;
  const [orphansToo, setOrphansToo] = useState(true);
  const preview = useQuery({
    queryKey: ["pack", draft.slug, "draft", "preview-remove", draft.revision, mods],
    queryFn: () => previewRemove(draft.slug, mods),
    staleTime: Infinity,
  });
  const name = (slug: string) => draft.entries.find((entry) => entry.mod === slug)?.name ?? slug;
  const remove = () => {
    const whole = preview.data?.edit;
    if (!whole || whole.do !== "several") return;
    const edits = (whole.edits as Edit[]).filter((one) => orphansToo || ("mod" in one && mods.includes(one.mod)));
    desk.make({ ...whole, edits: edits as never });
    desk.close();
  };
  return (
    <Sheet title={`Remove ${mods.length > 1 ? count(mods.length, "entry", "entries") : name(mods[0] ?? "")}`} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Problem error={preview.error} again={() => void preview.refetch()} />
      {!preview.data && !preview.error && <Waiting what="Working out what it leaves behind" />}
      {preview.data && (
        <>
          {mods.length > 1 && <Typography gutterBottom>{mods.map(name).join(", ")}</Typography>}
          {preview.data.needed_by.length > 0 && (
            <Alert severity="warning" sx={{ mb: 1.5 }}>
              {preview.data.needed_by.join(", ")} {preview.data.needed_by.length > 1 ? "need" : "needs"} this and will bring it along again, unless removed or turned off too.
            </Alert>
          )}
          {preview.data.orphans.length > 0 && (
            <Box sx={{ mb: 1 }}>
              <FormControlLabel control={<Checkbox size="small" checked={orphansToo} onChange={(event) => setOrphansToo(event.target.checked)} />} label={`Also remove ${count(preview.data.orphans.length, "mod")} that nothing else needs`} />
              <Typography variant="body2" color="textSecondary" sx={{ ml: 4 }}>{preview.data.orphans.map(name).join(", ")}</Typography>
            </Box>
          )}
          <Typography variant="body2" color="textSecondary" gutterBottom>It can be undone.</Typography>
          <Button variant="contained" onClick={remove}>Remove {count(mods.length + (orphansToo ? preview.data.orphans.length : 0), "entry", "entries")}</Button>
        </>
      )}
    </Sheet>
  );
}
