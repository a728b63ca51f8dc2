// The load order with what must come after what, and the files that several entries supply: who wins, and moving it.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useLoadOrder } from "../api/queries";
import type { Contested, Order } from "../api/schema";
import type { Desk } from "../assemble/desk";
import { Mono, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { count } from "../parts/words";

export function LoadOrder({ desk }: { desk: Desk }) {
  const order = useLoadOrder(desk.draft.slug);
  if (order.error) return <Problem error={order.error} again={() => void order.refetch()} />;
  if (!order.data) return <Waiting what="Putting the entries in order" />;
  const found = order.data;
  const move = (mods: string[]) => desk.make({ do: "set-load-order", mods });
  return (
    <Box sx={{ px: 3, py: 2, display: "grid", gridTemplateColumns: { xs: "1fr", lg: "minmax(0, 1fr) minmax(0, 1fr)" }, gap: 4 }}>
      <Box component="section">
        <Typography variant="h1" gutterBottom>{found.contested.length ? `${count(found.contested.length, "file")} supplied more than once` : "No file is supplied twice"}</Typography>
        <Typography color="textSecondary" gutterBottom>Where several entries bring the same file with different content, the last in the load order wins.</Typography>
        {found.contested.slice(0, 300).map((file) => <File key={file.path} file={file} order={found} desk={desk} move={move} />)}
      </Box>
      <Box component="section">
        <Typography variant="h2" gutterBottom>Load order</Typography>
        <Typography variant="body2" color="textSecondary" gutterBottom>{found.decides ? "In this game the order decides. Move entries up or down; what authors ask for always holds." : "In this game the order only decides which file wins."}</Typography>
        {found.circles.map((circle) => <Alert key={circle.join()} severity="warning">These ask to come after each other in a circle: {circle.map((mod) => found.names[mod] ?? mod).join(", ")}.</Alert>)}
        <Box component="ol" aria-label="Load order" sx={{ listStyle: "none", p: 0, m: 0, borderTop: 2, borderColor: "text.primary" }}>
          {found.rows.map((row, index) => (
            <Box component="li" key={row.mod} data-order={row.mod} sx={{ display: "flex", gap: 1, py: 0.5, alignItems: "center", borderBottom: 1, borderColor: "divider" }}>
              <Box sx={{ width: 34, textAlign: "right", color: "text.secondary" }}><Mono>{index + 1}</Mono></Box>
              <Emblem slug={row.mod} large={20} />
              <Box sx={{ flex: 1, minWidth: 0 }}>
                {row.name}
                {row.after.length > 0 && <Typography variant="caption" color="textSecondary" component="div">after {row.after.join(", ")}</Typography>}
              </Box>
              {desk.mayEdit && found.decides && (
                <>
                  <Button aria-label={`Move ${row.name} up`} disabled={index === 0 || row.after.includes(found.rows[index - 1]?.name ?? "")} onClick={() => move(swapped(found, index, index - 1))}>Up</Button>
                  <Button aria-label={`Move ${row.name} down`} disabled={index === found.rows.length - 1 || (found.rows[index + 1]?.after.includes(row.name) ?? true)} onClick={() => move(swapped(found, index, index + 1))}>Down</Button>
                </>
              )}
            </Box>
          ))}
        </Box>
      </Box>
    </Box>
  );
}

function swapped(order: Order, from: number, to: number): string[] {
  const mods = order.rows.map((row) => row.mod);
  const [moved] = mods.splice(from, 1);
  if (moved) mods.splice(to, 0, moved);
  return mods;
}

function File({ file, order, desk, move }: { file: Contested; order: Order; desk: Desk; move: (mods: string[]) => void }) {
  const winner = file.suppliers[file.suppliers.length - 1];
  const name = (mod: string) => order.names[mod] ?? mod;
  const places = order.rows.map((row) => row.mod);
  // What the winner's author asked for always holds, so moving another behind it would change nothing.
  const held = order.rows.find((row) => row.mod === winner?.mod)?.after ?? [];
  const win = (mod: string) => {
    const rest = places.filter((one) => one !== mod);
    rest.splice(rest.indexOf(winner?.mod ?? "") + 1, 0, mod);
    move(rest);
  };
  return (
    <Box data-contested={file.path} sx={{ py: 1, borderTop: 1, borderColor: "divider" }}>
      <Mono strong>{file.path}</Mono>
      {file.suppliers.map((supplier) => (
        <Box key={supplier.mod} sx={{ display: "flex", gap: 1, alignItems: "center", pl: 1, minHeight: 30 }}>
          <Box sx={{ flex: 1 }}>{name(supplier.mod)}{supplier === winner && <b> wins</b>}</Box>
          {supplier !== winner && held.includes(name(supplier.mod)) && <Typography variant="caption" color="textSecondary">{name(winner?.mod ?? "")} must come after it</Typography>}
          {desk.mayEdit && supplier !== winner && !held.includes(name(supplier.mod)) && <Button onClick={() => win(supplier.mod)} aria-label={`Let ${name(supplier.mod)} win`}>Let it win</Button>}
        </Box>
      ))}
    </Box>
  );
}
