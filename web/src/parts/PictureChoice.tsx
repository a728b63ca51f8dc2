// A picture of a pack in place of its emblem: chosen, sent, shown, and taken away again.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { api, data } from "../api/client";
import { Problem } from "./common";
import { PackMark } from "./Emblem";
import { FileButton } from "./FileButton";

const sendPicture = (file: File) =>
  data(api.POST("/api/pictures", { body: file as never, bodySerializer: (body: unknown) => body as Blob, headers: { "Content-Type": "application/octet-stream" } }));

export function PictureChoice({ picture, onChoose }: { picture: string | null; onChoose: (picture: string | null) => void }) {
  const send = useMutation({ mutationFn: sendPicture, onSuccess: (made) => onChoose(made.picture) });
  return (
    <Box>
      <Typography variant="body2" color="textSecondary">Or a picture in its stead</Typography>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        {picture !== null && <PackMark emblem="" picture={picture} large={40} />}
        <FileButton label="Picture of the pack" accept="image/png,image/jpeg,image/webp" disabled={send.isPending} onFile={(file) => send.mutate(file)}>
          {send.isPending ? "Sending the picture" : "Choose a picture"}
        </FileButton>
        {picture !== null && <Button onClick={() => onChoose(null)}>Take it away</Button>}
      </Box>
      <Problem error={send.error} />
    </Box>
  );
}
