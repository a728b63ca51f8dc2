// Live changes: an announcement says what changed, and what is shown of it is asked again.
import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { keys } from "./queries";
import type { Draft } from "./schema";

interface Announcement {
  topic: string;
  pack: string;
  name?: string;
  who?: number;
  revision?: number;
}

const STALE: Record<string, (pack: string) => readonly (readonly string[])[]> = {
  draft: (pack) => [keys.draft(pack)],
  releases: (pack) => [["pack", pack], keys.packs, keys.myRigs],
  rigs: (pack) => [keys.road(pack), keys.packs, keys.myRigs],
  roster: (pack) => [keys.roster(pack)],
  codes: (pack) => [keys.codes(pack)],
  packs: () => [keys.packs],
  jobs: () => [keys.jobs],
};

function refresh(client: QueryClient, { topic, pack, revision = Infinity }: Announcement) {
  if (topic === "draft") {
    // The list of packs counts entries too, but can wait until somebody looks at it.
    void client.invalidateQueries({ queryKey: keys.packs, refetchType: "none" });
    // One's own edits are known already.
    if ((client.getQueryData<Draft>(keys.draft(pack))?.revision ?? 0) >= revision) return;
  }
  // After a lost connection, and for what is not known here, everything may be stale.
  const stale = STALE[topic]?.(pack);
  if (!stale) void client.invalidateQueries();
  else for (const queryKey of stale) void client.invalidateQueries({ queryKey: [...queryKey] });
}

const UNSEEN_FOR = 20_000;

/**
 * Listens while the page can be seen. A browser keeps few connections to a server, and pages it has put away, or left in
 * other tabs, would use them all up. `missed` is called when it listens again, as something may have been said meanwhile.
 */
function listenWhileSeen(address: string, heard: (message: MessageEvent<string>) => void, missed: () => void): () => void {
  let source: EventSource | null = null;
  let before = false;
  let away: ReturnType<typeof setTimeout> | undefined;
  const close = () => {
    source?.close();
    source = null;
  };
  const open = () => {
    clearTimeout(away);
    if (source) return;
    source = new EventSource(address);
    source.onmessage = heard;
    if (before) missed();
    before = true;
  };
  const changed = () => {
    if (document.visibilityState === "visible") open();
    else away = setTimeout(close, UNSEEN_FOR);
  };
  document.addEventListener("visibilitychange", changed);
  window.addEventListener("pagehide", close);
  window.addEventListener("pageshow", open);
  open();
  return () => {
    document.removeEventListener("visibilitychange", changed);
    window.removeEventListener("pagehide", close);
    window.removeEventListener("pageshow", open);
    clearTimeout(away);
    close();
  };
}

/** Keeps what is shown current, and gives the names of others who look at the same pack. */
export function useLive(pack: string, myName: string): string[] {
  const client = useQueryClient();
  const [seen, setSeen] = useState<Record<string, number>>({});
  const [now, setNow] = useState(0);
  useEffect(() => {
    const heard = (message: MessageEvent<string>) => {
      const announcement = JSON.parse(message.data) as Announcement;
      if (announcement.topic !== "presence") refresh(client, announcement);
      else if (announcement.pack === pack && announcement.name)
        setSeen((before) => ({ ...before, [announcement.name ?? ""]: Date.now() }));
    };
    const stop = listenWhileSeen(`/api/events${pack ? `?pack=${encodeURIComponent(pack)}` : ""}`, heard, () => void client.invalidateQueries());
    const clock = setInterval(() => setNow(Date.now()), 5000);
    return () => {
      stop();
      clearInterval(clock);
      setSeen({});
    };
  }, [client, pack]);
  return Object.keys(seen).filter((name) => name !== myName && now - (seen[name] ?? 0) < 40_000);
}
