// All server state: what is asked, under which key it is kept, and what each change makes stale.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { account, api, data } from "./client";
import type { CodeRequest, Draft, EditRequest, NewPackRequest, PublishRequest } from "./schema";

export type Edit = EditRequest["edit"];

export const keys = {
  me: ["me"],
  jobs: ["jobs"],
  packs: ["packs"],
  games: ["games"],
  myRigs: ["my-rigs"],
  draft: (pack: string) => ["pack", pack, "draft"],
  history: (pack: string) => ["pack", pack, "draft", "history"],
  proposal: (pack: string) => ["pack", pack, "draft", "proposal"],
  mods: (pack: string, game: string, text: string, category: string) => ["pack", pack, "draft", "mods", game, text, category],
  mod: (pack: string, game: string, mod: string) => ["pack", pack, "draft", "mod", game, mod],
  releases: (pack: string) => ["pack", pack, "releases"],
  road: (pack: string) => ["pack", pack, "road"],
  codes: (pack: string) => ["pack", pack, "codes"],
  roster: (pack: string) => ["pack", pack, "roster"],
  boarding: (code: string) => ["boarding", code],
};

export const useMe = () => useQuery({ queryKey: keys.me, queryFn: () => data(api.GET("/api/me")) });
export const useJobs = () => useQuery({ queryKey: keys.jobs, queryFn: () => data(api.GET("/api/jobs")) });
export const usePacks = () => useQuery({ queryKey: keys.packs, queryFn: () => data(api.GET("/api/packs")) });
export const useGames = () => useQuery({ queryKey: keys.games, queryFn: () => data(api.GET("/api/games")) });
export const useMyRigs = () => useQuery({ queryKey: keys.myRigs, queryFn: () => data(api.GET("/api/my/rigs")) });

const inPack = (pack: string) => ({ params: { path: { pack } } });

export const useDraft = (pack: string) =>
  useQuery({ queryKey: keys.draft(pack), queryFn: () => data(api.GET("/api/packs/{pack}/draft", inPack(pack))) });
export const useHistory = (pack: string) =>
  useQuery({ queryKey: keys.history(pack), queryFn: () => data(api.GET("/api/packs/{pack}/edits", inPack(pack))) });
export const useProposal = (pack: string) =>
  useQuery({ queryKey: keys.proposal(pack), queryFn: () => data(api.GET("/api/packs/{pack}/proposal", inPack(pack))) });
export const useReleases = (pack: string) =>
  useQuery({ queryKey: keys.releases(pack), queryFn: () => data(api.GET("/api/packs/{pack}/releases", inPack(pack))) });
export const useRoad = (pack: string) =>
  useQuery({ queryKey: keys.road(pack), queryFn: () => data(api.GET("/api/packs/{pack}/road", inPack(pack))) });
export const useCodes = (pack: string) =>
  useQuery({ queryKey: keys.codes(pack), queryFn: () => data(api.GET("/api/packs/{pack}/codes", inPack(pack))) });
export const useRoster = (pack: string) =>
  useQuery({ queryKey: keys.roster(pack), queryFn: () => data(api.GET("/api/packs/{pack}/roster", inPack(pack))) });

export const useMods = (pack: string, game: string, text: string, category = "") =>
  useQuery({
    queryKey: keys.mods(pack, game, text, category),
    queryFn: () => data(api.GET("/api/mods", { params: { query: { pack, game, q: text, category } } })),
    placeholderData: keepPreviousData,
    enabled: game !== "",
  });

export const useMod = (pack: string, game: string, mod: string) =>
  useQuery({
    queryKey: keys.mod(pack, game, mod),
    queryFn: () => data(api.GET("/api/mods/{game}/{mod}", { params: { path: { game, mod }, query: { pack } } })),
  });

export const useBoarding = (code: string) =>
  useQuery({
    queryKey: keys.boarding(code),
    queryFn: () => data(api.GET("/api/boarding/{code}", { params: { path: { code } } })),
    retry: false,
  });

export const previewAdd = (pack: string, mods: string[], versions: Record<string, string> = {}) =>
  data(api.POST("/api/packs/{pack}/preview-add", { ...inPack(pack), body: { mods, versions } }));
export const previewRemove = (pack: string, mods: string[]) =>
  data(api.POST("/api/packs/{pack}/preview-remove", { ...inPack(pack), body: { mods, versions: {} } }));

/** What the waybill shows at once, before the server has answered. Only plain edits of one entry are foreseen. */
function foreseen(draft: Draft, edit: Edit): Draft {
  const change = (mod: string, facts: Partial<Draft["entries"][number]>) => ({
    ...draft,
    entries: draft.entries.map((entry) => (entry.mod === mod ? { ...entry, ...facts } : entry)),
  });
  switch (edit.do) {
    case "set-enabled":
      return change(edit.mod, { enabled: edit.enabled });
    case "set-optional":
      return change(edit.mod, { optional: edit.optional });
    case "set-pin":
      return change(edit.mod, { pin: edit.pin ? (edit.pin.reason ?? "") : null });
    case "set-build":
      return change(edit.mod, { version: edit.version });
    case "set-note":
      return change(edit.mod, { note: edit.note });
    case "several":
      return (edit.edits as Edit[]).reduce(foreseen, draft);
    case "remove":
      return { ...draft, entries: draft.entries.filter((entry) => entry.mod !== edit.mod) };
    default:
      return draft;
  }
}

/** Makes an edit: shown at once, confirmed by the server after; taken back if it refuses. */
export function useEdit(pack: string) {
  const client = useQueryClient();
  const key = keys.draft(pack);
  return useMutation({
    mutationFn: (edit: Edit) => {
      const base = client.getQueryData<Draft>(key)?.revision ?? 0;
      return data(api.POST("/api/packs/{pack}/edits", { ...inPack(pack), body: { base, edit } }));
    },
    scope: { id: `draft-${pack}` },
    onMutate: async (edit) => {
      await client.cancelQueries({ queryKey: key, exact: true });
      const before = client.getQueryData<Draft>(key);
      if (before) client.setQueryData(key, foreseen(before, edit));
      return before;
    },
    onSuccess: (made) => {
      client.setQueryData<Draft>(key, (draft) => draft && { ...draft, revision: made.revision });
    },
    onError: (_error, _edit, before) => {
      if (before) client.setQueryData(key, before);
    },
    onSettled: () => client.invalidateQueries({ queryKey: key }),
  });
}

export function useStepBack(pack: string, way: "undo" | "redo") {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (base: number) => data(api.POST(`/api/packs/{pack}/${way}`, { ...inPack(pack), body: { base } })),
    scope: { id: `draft-${pack}` },
    onSettled: () => client.invalidateQueries({ queryKey: keys.draft(pack) }),
  });
}

export function useNewPack() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: NewPackRequest) => data(api.POST("/api/packs", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.packs }),
  });
}

/** Publishes; ``onPublished`` is told even though the form is made anew after it. */
export function usePublish(pack: string, onPublished: (version: string) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: PublishRequest) => data(api.POST("/api/packs/{pack}/releases", { ...inPack(pack), body })),
    onSuccess: (made) => {
      onPublished(made.version);
      return client.invalidateQueries({ queryKey: ["pack", pack] });
    },
  });
}

export function useIssueCode(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: CodeRequest) => data(api.POST("/api/packs/{pack}/codes", { ...inPack(pack), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.codes(pack) }),
  });
}

export function useRevokeCode(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (code: string) =>
      data(api.DELETE("/api/packs/{pack}/codes/{code}", { params: { path: { pack, code } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.codes(pack) }),
  });
}

export function useSignOff(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (rig: number) => data(api.DELETE("/api/packs/{pack}/rigs/{rig}", { params: { path: { pack, rig } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.road(pack) }),
  });
}

export function useGiveRole(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { email: string; role: "owner" | "curator" | "member" }) =>
      data(api.PUT("/api/packs/{pack}/roster", { ...inPack(pack), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.roster(pack) }),
  });
}

export function useTakeOff(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (person: number) =>
      data(api.DELETE("/api/packs/{pack}/roster/{person}", { params: { path: { pack, person } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["pack", pack] }),
  });
}

export function usePersonalCode(code: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => data(api.POST("/api/boarding/{code}/personal", { params: { path: { code } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.packs }),
  });
}

export function useImport() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (address: string) => data(api.POST("/api/imports", { body: { address } })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.jobs }),
  });
}

export function useCancelJob() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (job: number) => data(api.DELETE("/api/jobs/{job}", { params: { path: { job } } })),
    onSettled: () => client.invalidateQueries({ queryKey: keys.jobs }),
  });
}

/** Signing in and out changes everything, so nothing kept is trusted after it. */
export function useAccount() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ path, body, method }: { path: string; body?: object; method?: string }) => account(path, body, method),
    onSuccess: async () => {
      await client.resetQueries();
    },
  });
}
