import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, Refusal, type Schemas, trust, unwrap } from "./client";
import { path, usePart } from "./queries";

export type Role = NonNullable<Schemas["RoleOf"]["role"]>;
export const ROLES: readonly Role[] = ["read", "edit", "publish", "administer"];

/** Who is signed in here; asking also takes the token that changes carry. A refusal of 401 = nobody. */
export function useMe() {
  return useQuery({
    queryKey: ["me"],
    queryFn: async () => {
      const me = unwrap(await http.GET("/api/me"));
      trust(me.csrf);
      return me;
    },
    retry: (tries, error) => !(error instanceof Refusal && error.problem.status === 401) && tries < 600,
    retryDelay: 1500,
  });
}

/** Tell whether somebody is signed in, and take the token that changes carry; throws where the server is not heard. */
export async function signedIn(): Promise<boolean> {
  const { data } = await http.GET("/api/me");
  if (data) trust(data.csrf);
  return data !== undefined;
}

export function useSignIn() {
  const cache = useQueryClient();
  return useMutation<undefined, Refusal, Schemas["SignIn"]>({
    mutationFn: async (body) => unwrap(await http.POST("/api/session", { body })),
    onSuccess: () => cache.resetQueries(),
  });
}

export function useSignOut() {
  const cache = useQueryClient();
  return useMutation({ mutationFn: async () => unwrap(await http.DELETE("/api/session")), onSuccess: () => cache.resetQueries() });
}

/** Everybody, and what each may do with a design; asked once somebody wants to know. `sees`: who may let somebody do something sees everybody. */
export function usePeople(id: string, sees: boolean) {
  const cache = useQueryClient();
  const roles = usePart(id, ["roles"], () => http.GET("/api/designs/{design_id}/roles", { params: path(id) }));
  const accounts = usePart(id, ["accounts"], () => http.GET("/api/accounts"), sees);
  const fresh = () => cache.invalidateQueries({ queryKey: ["design", id] });
  const add = useMutation<Schemas["Person"], Refusal, Schemas["NewAccount"]>({
    mutationFn: async (body) => unwrap(await http.POST("/api/accounts", { body })),
    onSuccess: fresh,
  });
  const put = useMutation<undefined, Refusal, Schemas["RoleOf"]>({
    mutationFn: async (body) => unwrap(await http.PUT("/api/designs/{design_id}/roles", { params: path(id), body })),
    onSuccess: fresh,
  });
  const shut = useMutation<Schemas["Person"], Refusal, { name: string; disabled: boolean }>({
    mutationFn: async ({ name, disabled }) => unwrap(await http.PUT("/api/accounts/{name}/disabled", { params: { path: { name }, query: { disabled } } })),
    onSuccess: fresh,
  });
  const act = useMutation<string | null, Refusal, { name: string; what: "reset" | "owner" | "no owner" | "end" | "remove" }>({
    mutationFn: async ({ name, what }) => {
      const params = { path: { name } };
      if (what === "reset") return unwrap(await http.POST("/api/accounts/{name}/reset", { params })).path;
      if (what === "end") unwrap(await http.DELETE("/api/accounts/{name}/sessions", { params }));
      else if (what === "remove") unwrap(await http.DELETE("/api/accounts/{name}", { params }));
      else unwrap(await http.PUT("/api/accounts/{name}/owner", { params: { ...params, query: { owner: what === "owner" } } }));
      return null;
    },
    onSuccess: fresh,
  });
  return { roles: roles.data ?? [], accounts: accounts.data ?? [], add, put, shut, act };
}

/** End one's own sessions in all other browsers. */
export function useEndOthers() {
  return useMutation<undefined, Refusal>({ mutationFn: async () => unwrap(await http.DELETE("/api/me/sessions")) });
}

export function usePassword() {
  const cache = useQueryClient();
  return useMutation<undefined, Refusal, Schemas["NewPassword"]>({
    mutationFn: async (body) => unwrap(await http.PUT("/api/me/password", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["me"] }),
  });
}

/** The tokens by which one's programs act. */
export function useTokens() {
  const cache = useQueryClient();
  const all = useQuery({ queryKey: ["tokens"], queryFn: async () => unwrap(await http.GET("/api/me/tokens")) });
  const fresh = () => cache.invalidateQueries({ queryKey: ["tokens"] });
  const make = useMutation<Schemas["MadeToken"], Refusal, Schemas["NewToken"]>({
    mutationFn: async (body) => unwrap(await http.POST("/api/me/tokens", { body })),
    onSuccess: fresh,
  });
  const end = useMutation<undefined, Refusal, string>({
    mutationFn: async (token_id) => unwrap(await http.DELETE("/api/me/tokens/{token_id}", { params: { path: { token_id } } })),
    onSuccess: fresh,
  });
  return { all: all.data ?? [], make, end };
}
