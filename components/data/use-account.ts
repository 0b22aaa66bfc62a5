"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { request } from "@/components/data/request";
import type { AccountView, RecoveryCodes, TwoFactorBegun } from "@/contracts/people";

const KEY = ["account"];

/** One's own account, and what one does about it. */
export function useAccount() {
  const client = useQueryClient();
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: KEY }) };
  const view = useQuery({ queryKey: KEY, queryFn: () => request<AccountView>("GET", "/api/account") });
  const rename = useMutation({ mutationFn: (name: string) => request("PATCH", "/api/account", { name }), ...again });
  const changePassword = useMutation({
    mutationFn: (asked: { current: string; password: string }) => request("PATCH", "/api/account", asked),
    ...again,
  });
  const endSession = useMutation({
    mutationFn: (id: string) => request("DELETE", `/api/account/sessions/${id}`),
    ...again,
  });
  const endOthers = useMutation({ mutationFn: () => request("DELETE", "/api/account/sessions"), ...again });
  const leave = useMutation({
    mutationFn: () => request("DELETE", "/api/account"),
    onSuccess: () => window.location.assign("/sign-in"),
  });
  const begin = useMutation({ mutationFn: () => request<TwoFactorBegun>("POST", "/api/account/two-factor") });
  const confirm = useMutation({
    mutationFn: (code: string) => request<RecoveryCodes>("PATCH", "/api/account/two-factor", { code }),
    ...again,
  });
  const end = useMutation({
    mutationFn: (password: string) => request("DELETE", "/api/account/two-factor", { password }),
    ...again,
  });
  const otherCodes = useMutation({
    mutationFn: (password: string) => request<RecoveryCodes>("POST", "/api/account/recovery-codes", { password }),
    ...again,
  });
  return {
    view: view.data ?? null,
    problem: view.error?.message ?? null,
    rename,
    changePassword,
    endSession,
    endOthers,
    leave,
    secondStep: { begin, confirm, end, otherCodes },
  };
}
