// Live changes: an announcement says what changed, and what is shown of it is asked again.
import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { keys } from "./queries";

interface Announcement {
  topic: string;
  pack: string;
  name?: string;
  who?: number;
}

const STALE: Record<string, (pack: string) => readonly (readonly string[])[]> = {
  draft: (pack) => [keys.draft(pack), keys.packs],
  releases: (pack) => [["pack", pack], keys.packs, keys.myRigs],
  rigs: (pack) => [keys.road(pack), keys.packs, keys.myRigs],
  roster: (pack) => [keys.roster(pack)],
  codes: (pack) => [keys.codes(pack)],
  packs: () => [keys.packs],
  jobs: () => [keys.jobs],
};

function refresh(client: QueryClient, { topic, pack }: Announcement) {
  // After a lost connection, and for what is not known here, everything may be stale.
  const stale = STALE[topic]?.(pack);
  if (!stale) void client.invalidateQueries();
  else for (const queryKey of stale) void client.invalidateQueries({ queryKey: [...queryKey] });
}

/** Keeps what is shown current, and gives the names of others who look at the same pack. */
export function useLive(pack: string, myName: string): string[] {
  const client = useQueryClient();
  const [seen, setSeen] = useState<Record<string, number>>({});
  const [now, setNow] = useState(0);
  useEffect(() => {
    const source = new EventSource(`/api/events${pack ? `?pack=${encodeURIComponent(pack)}` : ""}`);
    source.onmessage = (message: MessageEvent<string>) => {
      const announcement = JSON.parse(message.data) as Announcement;
      if (announcement.topic !== "presence") refresh(client, announcement);
      else if (announcement.pack === pack && announcement.name)
        setSeen((before) => ({ ...before, [announcement.name ?? ""]: Date.now() }));
    };
    const clock = setInterval(() => setNow(Date.now()), 5000);
    return () => {
      source.close();
      clearInterval(clock);
      setSeen({});
    };
  }, [client, pack]);
  return Object.keys(seen).filter((name) => name !== myName && now - (seen[name] ?? 0) < 40_000);
}
