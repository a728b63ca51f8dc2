// A change that was refused, why, and where two curators clashed both values, with the way to make one's own after all.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { useDesk } from "./desk";

export function Refusals({ work }: { work: ReturnType<typeof useDesk> }) {
  const { refused, forget, onAgain } = work;
  if (!refused) return null;
  const { clash } = refused;
  return (
    <Alert severity="error" onClose={forget} sx={{ borderRadius: 0 }}>
      {clash ? (
        <Box data-clash="true">
          <Typography variant="body2" gutterBottom>{clash.by} changed the same while you did. Theirs stands; yours was not made.</Typography>
          <Box sx={{ display: "grid", gridTemplateColumns: "auto 1fr", columnGap: 1.5, fontSize: "0.9rem" }}>
            <b>{clash.by}</b><span>{clash.theirs}</span>
            <b>You</b><span>{clash.yours}</span>
          </Box>
          <Box sx={{ display: "flex", gap: 1, mt: 0.5 }}>
            <Button color="inherit" variant="outlined" onClick={onAgain}>Make mine after all</Button>
            <Button color="inherit" onClick={forget}>Leave theirs</Button>
          </Box>
        </Box>
      ) : (
        refused.why
      )}
    </Alert>
  );
}
