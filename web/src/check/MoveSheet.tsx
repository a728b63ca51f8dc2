// What moving the draft to another ground would do: raised, lowered, lost, replaced; made as one edit.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useFitTable, useMove, type Edit } from "../api/queries";
import type { Shift } from "../api/schema";
import type { Desk } from "../assemble/desk";
import { Mono, Problem, Sheet, Waiting } from "../parts/common";
import { count } from "../parts/words";

export function MoveSheet({ desk, ground }: { desk: Desk; ground: string }) {
  const [version = "", loader = ""] = ground.split("/");
  const move = useMove(desk.draft.slug, version, loader);
  const loaders = useFitTable(desk.draft.slug).data?.loaders ?? {};
  const there = loader ? `${version} with ${loaders[loader] ?? loader}` : version;
  const plan = move.data;
  const here = version === desk.draft.game_version && loader === (desk.draft.loader?.slug ?? "");
  const foot = plan?.edit && desk.mayEdit && !here && (
    <Button variant="contained" onClick={() => (desk.make(plan.edit as Edit), desk.close())}>Move to {there}</Button>
  );
  return (
    <Sheet title={here ? "Where the draft is" : `Moving to ${there}`} onClose={desk.close} wide={desk.wide} onWide={desk.onWide} foot={foot}>
      <Problem error={move.error} again={() => void move.refetch()} />
      {!plan && !move.error && <Waiting what="Working out the move" />}
      {plan && !plan.edit && (
        <Alert severity="error">
          What is left does not fit together there.
          <Box component="ul" sx={{ pl: 2.5, my: 0.5 }}>{plan.explanation.map((line) => <li key={line}>{line}</li>)}</Box>
        </Alert>
      )}
      {plan?.edit && (
        <>
          <Typography gutterBottom>{count(plan.kept, "entry stays", "entries stay")} as {plan.kept === 1 ? "it is" : "they are"}. It is one change, and one undo takes it back.</Typography>
          <Part title="Turned off, as there is no build" rows={plan.lost} />
          <Part title="Replaced by one that does the same job" rows={plan.replaced} />
          <Part title="Raised" rows={plan.raised} />
          <Part title="Lowered" rows={plan.lowered} />
          <Part title="Comes along" rows={plan.added} />
        </>
      )}
    </Sheet>
  );
}

function Part({ title, rows }: { title: string; rows: Shift[] }) {
  if (rows.length === 0) return null;
  return (
    <Box component="section" sx={{ mt: 1.5 }}>
      <Typography variant="h3">{title}: {rows.length}</Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {rows.map((row) => (
          <Box component="li" key={row.mod} sx={{ display: "flex", gap: 1, py: 0.4, borderBottom: 1, borderColor: "divider" }}>
            <Box sx={{ flex: 1 }}>{row.name}{row.by_name && ` by ${row.by_name}`}</Box>
            <Mono>{[row.old, row.new].filter(Boolean).join(" to ")}</Mono>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
