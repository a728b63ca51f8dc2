// All server state: what is asked, under which key it is kept, and what each change makes stale.
import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { account, api, data } from "./client";
import type { CodeRequest, Draft, EditRequest, Game, ModList, ModRow, NewPackRequest, OwnModRequest, PublishRequest, ShelfModRequest } from "./schema";

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
  mods: (asked: ModSearch) => ["pack", asked.pack, "draft", "mods", asked],
  mod: (pack: string, game: string, mod: string) => ["pack", pack, "draft", "mod", game, mod],
  files: (game: string, mod: string, version: string) => ["files", game, mod, version],
  rules: (pack: string, mod: string, version: string, keep: string[], drop: string[]) => ["pack", pack, "rules", mod, version, keep, drop],
  compared: (pack: string, one: number, two: number) => ["pack", pack, "compared", one, two],
  starters: ["starters"],
  shelves: ["shelves"],
  findings: (pack: string) => ["pack", pack, "draft", "findings"],
  mending: (pack: string) => ["pack", pack, "draft", "mending"],
  fitTable: (pack: string) => ["pack", pack, "draft", "fit-table"],
  move: (pack: string, version: string, loader: string) => ["pack", pack, "draft", "move", version, loader],
  loadOrder: (pack: string) => ["pack", pack, "draft", "load-order"],
  picture: (pack: string) => ["pack", pack, "draft", "picture"],
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
  useInfiniteQuery({
    queryKey: keys.history(pack),
    queryFn: ({ pageParam }) =>
      data(api.GET("/api/packs/{pack}/history", { params: { path: { pack }, query: { before: pageParam } } })),
    initialPageParam: "",
    getNextPageParam: (page) => (page.more ? String(page.revisions.at(-1)?.number ?? "") : undefined),
  });
export const useCompared = (pack: string, one: number, two: number) =>
  useQuery({
    queryKey: keys.compared(pack, one, two),
    queryFn: () =>
      data(
        api.GET("/api/packs/{pack}/history/compared", {
          params: { path: { pack }, query: { one: String(one), two: String(two) } },
        }),
      ),
    enabled: one > 0 && two > 0,
    staleTime: Infinity,
  });
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

export const useFindings = (pack: string) =>
  useQuery({
    queryKey: keys.findings(pack),
    queryFn: () => data(api.GET("/api/packs/{pack}/findings", inPack(pack))),
    placeholderData: keepPreviousData,
  });
export const useMending = (pack: string) =>
  useQuery({ queryKey: keys.mending(pack), queryFn: () => data(api.GET("/api/packs/{pack}/mending", inPack(pack))) });
export const useFitTable = (pack: string) =>
  useQuery({ queryKey: keys.fitTable(pack), queryFn: () => data(api.GET("/api/packs/{pack}/fit-table", inPack(pack))) });
export const useMove = (pack: string, version: string, loader: string) =>
  useQuery({
    queryKey: keys.move(pack, version, loader),
    queryFn: () =>
      data(
        api.GET("/api/packs/{pack}/move", {
          params: { path: { pack }, query: { game_version: version, loader } },
        }),
      ),
  });
export const useLoadOrder = (pack: string) =>
  useQuery({
    queryKey: keys.loadOrder(pack),
    queryFn: () => data(api.GET("/api/packs/{pack}/load-order", inPack(pack))),
    placeholderData: keepPreviousData,
  });
export const usePicture = (pack: string) =>
  useQuery({ queryKey: keys.picture(pack), queryFn: () => data(api.GET("/api/packs/{pack}/picture", inPack(pack))) });
export const previewEdit = (pack: string, edit: Edit) =>
  data(api.POST("/api/packs/{pack}/preview-edit", { ...inPack(pack), body: { edit } }));

/** A look through the catalogue; ``narrowed`` holds the chosen values of each facet. */
export interface ModSearch {
  pack: string;
  game: string;
  text: string;
  narrowed?: Record<string, string[]>;
  fits?: boolean;
  sort?: string;
  page?: number;
}

export const useMods = (asked: ModSearch) =>
  useQuery({
    queryKey: keys.mods(asked),
    queryFn: () => {
      const { pack, game, text, narrowed = {}, fits = false, sort = "", page = 1 } = asked;
      const query = { pack, game, q: text, sort, page: String(page), fits: fits ? "1" : "", ...narrowed };
      return data(api.GET("/api/mods", { params: { query } }));
    },
    placeholderData: keepPreviousData,
    enabled: asked.game !== "",
  });

export const useMod = (pack: string, game: string, mod: string) =>
  useQuery({
    queryKey: keys.mod(pack, game, mod),
    queryFn: () => data(api.GET("/api/mods/{game}/{mod}", { params: { path: { game, mod }, query: { pack } } })),
  });

export const useBuildFiles = (pack: string, game: string, mod: string, version: string) =>
  useQuery({
    queryKey: keys.files(game, mod, version),
    queryFn: () =>
      data(
        api.GET("/api/mods/{game}/{mod}/builds/{version}", {
          params: { path: { game, mod, version }, query: { pack } },
        }),
      ),
    enabled: version !== "",
    staleTime: Infinity,
  });

/** Where the files of an entry's build go under path rules that are only being tried. */
export const usePathRules = (pack: string, mod: string, version: string, keep: string[], drop: string[]) =>
  useQuery({
    queryKey: keys.rules(pack, mod, version, keep, drop),
    queryFn: () => data(api.POST("/api/packs/{pack}/path-rules", { ...inPack(pack), body: { mod, version, keep, drop } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });

export const useStarters = () =>
  useQuery({ queryKey: keys.starters, queryFn: () => data(api.GET("/api/starters")) });
export const useShelves = () => useQuery({ queryKey: keys.shelves, queryFn: () => data(api.GET("/api/shelves")) });

export const useBoarding = (code: string) =>
  useQuery({
    queryKey: keys.boarding(code),
    queryFn: () => data(api.GET("/api/boarding/{code}", { params: { path: { code } } })),
    retry: false,
  });

export const previewAdd = (pack: string, mods: string[], versions: Record<string, string> = {}, along: string[] = []) =>
  data(api.POST("/api/packs/{pack}/preview-add", { ...inPack(pack), body: { mods, versions, along } }));
export const previewRemove = (pack: string, mods: string[]) =>
  data(api.POST("/api/packs/{pack}/preview-remove", { ...inPack(pack), body: { mods } }));
export const previewOff = (pack: string, mods: string[]) =>
  data(api.POST("/api/packs/{pack}/preview-off", { ...inPack(pack), body: { mods } }));
export const recognise = (pack: string, text: string) =>
  data(api.POST("/api/packs/{pack}/pasted", { ...inPack(pack), body: { text } }));

type Known = (mod: string) => ModRow | undefined;

/** A row for a mod that is being added, from what the catalogue showed of it; the server's answer fills in the rest. */
function foreseenRow(mod: string, version: string | null, chosen: boolean, known: ModRow | undefined): Draft["entries"][number] {
  return {
    mod, version, chosen, name: known?.name ?? mod, summary: known?.summary ?? "", newest: version ?? "", enabled: true, optional: false, by_default: true, one_of: "", pin: null, note: "",
    keep: [], drop: [], order: null, label: "", sides: known?.sides ?? { client: "required", server: "required" }, own_sides: false, reach: known?.reach ?? "shared", save_effect: "none", kind: known?.kind ?? "mod", kind_name: "",
    categories: known?.categories ?? [], authors: known?.authors ?? [], licence: known?.licence ?? null, size: 0, sha256: "", by_hand: false, fits: true, reason: "", required_by: [], needs: [],
  };
}

/** What the waybill shows at once, before the server has answered, as far as that can be foreseen. */
function foreseen(draft: Draft, edit: Edit, known: Known): Draft {
  const change = (mod: string, facts: Partial<Draft["entries"][number]>) => ({
    ...draft,
    entries: draft.entries.map((entry) => (entry.mod === mod ? { ...entry, ...facts } : entry)),
  });
  switch (edit.do) {
    case "set-enabled":
      return change(edit.mod, { enabled: edit.enabled });
    case "set-optional":
      return change(edit.mod, { optional: edit.optional, by_default: edit.by_default, one_of: edit.one_of });
    case "set-chosen":
      return change(edit.mod, { chosen: edit.chosen });
    case "set-path-rules":
      return change(edit.mod, { keep: edit.keep, drop: edit.drop });
    case "set-pin":
      return change(edit.mod, { pin: edit.pin ? (edit.pin.reason ?? "") : null });
    case "set-build":
      return change(edit.mod, { version: edit.version });
    case "set-fair":
      return { ...draft, fair: edit.fair };
    case "set-label":
      return change(edit.mod, { label: edit.label });
    case "set-note":
      return change(edit.mod, { note: edit.note });
    case "several":
      return (edit.edits as Edit[]).reduce((reached, one) => foreseen(reached, one, known), draft);
    case "add":
      return { ...draft, entries: [...draft.entries, foreseenRow(edit.mod, edit.version, edit.chosen, known(edit.mod))] };
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
      const lists = client.getQueriesData<ModList>({ queryKey: [...key, "mods"] });
      const known: Known = (mod) => lists.flatMap(([, list]) => list?.mods ?? []).find((one) => one.slug === mod);
      if (before) client.setQueryData(key, foreseen(before, edit, known));
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

export function useGoBack(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { base: number; to: number }) => data(api.POST("/api/packs/{pack}/go-back", { ...inPack(pack), body })),
    scope: { id: `draft-${pack}` },
    onSettled: () => client.invalidateQueries({ queryKey: keys.draft(pack) }),
  });
}

export function useCopyTo(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { mods: string[]; to: string }) => data(api.POST("/api/packs/{pack}/copy", { ...inPack(pack), body })),
    onSuccess: (_made, asked) => client.invalidateQueries({ queryKey: ["pack", asked.to] }),
  });
}

/** Puts a mod onto the pack's shelf; the draft is changed by another step. */
export function useOwnMod(pack: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: OwnModRequest) => data(api.POST("/api/packs/{pack}/own-mods", { ...inPack(pack), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.draft(pack) }),
  });
}

/** Changes of shelves; each answers with what the list of shelves shows. */
export function useShelfWork() {
  const client = useQueryClient();
  const after = { onSuccess: () => client.invalidateQueries({ queryKey: keys.shelves }) };
  return {
    make: useMutation({ mutationFn: (name: string) => data(api.POST("/api/shelves", { body: { name } })), ...after }),
    take: useMutation({
      mutationFn: ({ shelf, email }: { shelf: number; email: string }) =>
        data(api.PUT("/api/shelves/{shelf}/people", { params: { path: { shelf } }, body: { email } })),
      ...after,
    }),
    let: useMutation({
      mutationFn: ({ shelf, person }: { shelf: number; person: number }) =>
        data(api.DELETE("/api/shelves/{shelf}/people/{person}", { params: { path: { shelf, person } } })),
      ...after,
    }),
    put: useMutation({
      mutationFn: ({ shelf, body }: { shelf: number; body: ShelfModRequest }) =>
        data(api.POST("/api/shelves/{shelf}/mods", { params: { path: { shelf } }, body })),
      ...after,
    }),
    check: useMutation({
      mutationFn: ({ game, mod }: { game: string; mod: string }) =>
        data(api.POST("/api/mods/{game}/{mod}/reach", { params: { path: { game, mod } } })),
      onSuccess: () => client.invalidateQueries(),
    }),
  };
}

export function useKeepGame() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (game: Game) => data(api.PUT("/api/games", { body: { game } })),
    onSuccess: () => client.invalidateQueries(),
  });
}

export function useOfferStarter() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: { pack: string; name: string; about: string }) => data(api.POST("/api/starters", { body: { ...asked, document: null } })),
    onSuccess: (all) => client.setQueryData(keys.starters, all),
  });
}

export function useTakeBackStarter() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (starter: number) => data(api.DELETE("/api/starters/{starter}", { params: { path: { starter } } })),
    onSuccess: (all) => client.setQueryData(keys.starters, all),
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
