import { answer, api } from "./call";
import type { AreaRulesInfo, SignInInfo, TokenRequest } from "./types";

export const getSession = () => answer(api.GET("/api/session"));
export const signIn = (name: string, password: string, code: string | null) =>
  answer(api.POST("/api/session", { body: { name, password, code } }));
export const signOut = () => answer(api.DELETE("/api/session"));
export const lookAtLink = (link: string) => answer(api.POST("/api/links/look", { body: { link } }));
export const useLink = (link: string, password: string, name: string | null) =>
  answer(api.POST("/api/links/password", { body: { link, password, name } }));

export const setMyPassword = (old: string, next: string) =>
  answer(api.PUT("/api/me/password", { body: { old, new: next } }));
export const beginCodes = () => answer(api.POST("/api/me/codes"));
export const setCodes = (secret: string, code: string) => answer(api.PUT("/api/me/codes", { body: { secret, code } }));
export const removeCodes = (password: string) => answer(api.POST("/api/me/codes/removal", { body: { password } }));
export const listMySessions = () => answer(api.GET("/api/me/sessions"));
export const endMySession = (id: string) => answer(api.DELETE("/api/me/sessions/{id}", { params: { path: { id } } }));
export const listMyTokens = () => answer(api.GET("/api/me/tokens"));
export const addMyToken = (body: TokenRequest) => answer(api.POST("/api/me/tokens", { body }));
export const revokeMyToken = (id: string) => answer(api.DELETE("/api/me/tokens/{id}", { params: { path: { id } } }));

export const getDevice = (code: string) => answer(api.GET("/api/device/{code}", { params: { path: { code } } }));
export const decideDevice = (code: string, allow: boolean) =>
  answer(api.POST("/api/device/{code}", { params: { path: { code } }, body: { allow, roles: null } }));

export const listPeople = () => answer(api.GET("/api/people"));
export const addPerson = (name: string, fullName: string | null, roles: string[]) =>
  answer(api.POST("/api/people", { body: { name, fullName, roles } }));
const person = (name: string) => ({ params: { path: { name } } });
export const setRoles = (name: string, roles: string[]) =>
  answer(api.PUT("/api/people/{name}/roles", { ...person(name), body: { roles } }));
export const setDisabled = (name: string, disabled: boolean) =>
  answer(api.PUT("/api/people/{name}/disabled", { ...person(name), body: { disabled } }));
export const makeLink = (name: string) => answer(api.POST("/api/people/{name}/link", person(name)));
export const removeCodesOf = (name: string) => answer(api.DELETE("/api/people/{name}/codes", person(name)));
export const endSessionsOf = (name: string) => answer(api.DELETE("/api/people/{name}/sessions", person(name)));
export const removePerson = (name: string) => answer(api.DELETE("/api/people/{name}", person(name)));

export const listTokens = () => answer(api.GET("/api/tokens"));
export const revokeToken = (id: string) => answer(api.DELETE("/api/tokens/{id}", { params: { path: { id } } }));

export const getSignIn = () => answer(api.GET("/api/access/sign-in"));
export const setSignIn = (body: SignInInfo) => answer(api.PUT("/api/access/sign-in", { body }));
export const listRules = () => answer(api.GET("/api/access/rules"));
export const setRules = (body: AreaRulesInfo) => answer(api.PUT("/api/access/rules", { body }));
export const removeRules = (folder: string) =>
  answer(api.DELETE("/api/access/rules", { params: { query: { folder } } }));

export interface AuditFilter {
  by?: string;
  action?: string;
  text?: string;
  before?: number;
}
export const listAudit = (filter: AuditFilter) =>
  answer(api.GET("/api/audit", { params: { query: { ...filter, limit: 100 } } }));
export const verifyAudit = () => answer(api.GET("/api/audit/verdict"));
