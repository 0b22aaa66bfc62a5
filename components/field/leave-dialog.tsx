"use client";
import { useTranslations } from "next-intl";
import { useState } from "react";
import { Dialog } from "@/components/kit/dialog";
import { Problem } from "@/components/kit/notice";
import { Big } from "./parts";
import { usePhone } from "./store/phone";

/** Signing out makes the phone forget: what waits is said first. */
export function LeaveDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const t = useTranslations("frame");
  const count = usePhone((s) => s.waiting.filter((e) => e.state !== "sent").length);
  const send = usePhone((s) => s.send);
  const signOut = usePhone((s) => s.signOut);
  const [problem, setProblem] = useState<string | null>(null);
  const leave = (): void => {
    signOut().then(
      () => window.location.assign("/sign-in"),
      (error: Error) => setProblem(error.message),
    );
  };
  return (
    <Dialog title={t("leaveTitle")} open={open} onClose={onClose}>
      <p className="mb-3">{count > 0 ? t("leaveWaiting", { count }) : t("leavePlain")}</p>
      {problem && <Problem>{problem}</Problem>}
      <div className="grid gap-2">
        {count > 0 && (
          <Big
            rank="main"
            onClick={() => {
              onClose();
              void send();
            }}
          >
            {t("leaveSend")}
          </Big>
        )}
        <Big rank={count > 0 ? "danger" : "main"} onClick={leave}>
          {count > 0 ? t("leaveAnyway", { count }) : t("signOut")}
        </Big>
        <Big onClick={onClose}>{t("cancel")}</Big>
      </div>
    </Dialog>
  );
}
