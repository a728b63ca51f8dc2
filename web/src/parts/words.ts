// How sizes, times and counts are said.
export function size(bytes: number): string {
  if (bytes < 1_000_000) return `${Math.max(Math.round(bytes / 1000), bytes > 0 ? 1 : 0)} kB`;
  if (bytes < 1_000_000_000) return `${(bytes / 1_000_000).toFixed(1)} MB`;
  return `${(bytes / 1_000_000_000).toFixed(2)} GB`;
}

export const gibibytes = (mib: number) => `${(mib / 1024).toFixed(1)} GB`;

export function count(number: number, one: string, many = `${one}s`): string {
  return `${number.toLocaleString("en")} ${number === 1 ? one : many}`;
}

const UNITS: [number, Intl.RelativeTimeFormatUnit][] = [
  [60, "second"],
  [60, "minute"],
  [24, "hour"],
  [7, "day"],
  [5, "week"],
  [12, "month"],
  [Infinity, "year"],
];

/** A time as "3 days ago". */
export function ago(time: string): string {
  let amount = (Date.parse(time) - Date.now()) / 1000;
  const words = new Intl.RelativeTimeFormat("en", { numeric: "auto" });
  for (const [next, unit] of UNITS) {
    if (Math.abs(amount) < next) return unit === "second" ? "just now" : words.format(Math.round(amount), unit);
    amount /= next;
  }
  return "";
}

/** A time exactly, in the reader's own zone. */
export const exactly = (time: string) =>
  new Date(time).toLocaleString("en-GB", { dateStyle: "long", timeStyle: "short" });

export const REACH: Record<string, string> = {
  own: "own screen",
  shared: "shared",
  progress: "progress",
};

export function sides(given: { client?: string; server?: string }): string {
  const client = given.client !== "unsupported";
  const server = given.server !== "unsupported";
  if (client && server) return "both";
  return client ? "client" : "server";
}
