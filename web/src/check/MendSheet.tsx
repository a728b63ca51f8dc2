// What mending all that has one safe answer would do, and one button that does it.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMending, type Edit } from "../api/queries";
import type { Desk } from "../assemble/desk";
import { Problem, Sheet, Waiting } from "../parts/common";
import { count } from "../parts/words";

export function MendSheet({ desk }: { desk: Desk }) {
  const mending = useMending(desk.draft.slug);
  const plan = mending.data;
  const foot = plan?.edit && (
    <Button variant="contained" onClick={() => (desk.make(plan.edit as Edit), desk.close())}>Make {count(plan.labels.length, "change")} as one</Button>
  );
  return (
    <Sheet title="Mend what has one safe answer" onClose={desk.close} wide={desk.wide} onWide={desk.onWide} foot={foot}>
      <Problem error={mending.error} again={() => void mending.refetch()} />
      {!plan && !mending.error && <Waiting what="Trying one fix after the other" />}
      {plan && !plan.edit && <Typography>Nothing is left that has one safe answer.</Typography>}
      {plan?.edit && (
        <>
          <Typography gutterBottom>Nothing that somebody chose is taken away. It is one change, and one undo takes it back.</Typography>
          <Box component="ol" sx={{ pl: 3, my: 1 }}>{plan.labels.map((label, index) => <li key={`${index} ${label}`}>{label}</li>)}</Box>
          <Typography variant="body2" color="textSecondary">{plan.left ? `${count(plan.left, "finding")} will be left that somebody must decide.` : "No stop or caution will be left."}</Typography>
        </>
      )}
    </Sheet>
  );
}
