import { notFound, redirect } from "next/navigation";
import { SiteFrame } from "@/components/frame/site-frame";
import { localDate } from "@/core/dates/wall-time";
import { AppError } from "@/server/app-error";
import { asUser, signedIn } from "@/server/auth/session";
import { logoStands } from "@/server/services/logo";
import { logState } from "@/server/services/log-book";
import { loadSite } from "@/server/services/sites";

export default async function SiteLayout({
  params,
  children,
}: {
  params: Promise<{ siteId: string }>;
  children: React.ReactNode;
}) {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  const { siteId } = await params;
  const { site, log, logo } = await asUser(user, async () => ({
    site: await loadSite(user, siteId),
    log: await logState(user, siteId),
    logo: await logoStands(user),
  })).catch((error) => {
    if (error instanceof AppError && error.code === "notFound") notFound();
    throw error;
  });
  return (
    <SiteFrame
      siteId={site.id}
      file={site.file}
      version={site.version}
      role={user.role}
      userName={user.name}
      today={localDate(site.file.site.timeZone, Math.floor(Date.now() / 1000))}
      log={log}
      logo={logo?.version ?? null}
    >
      {children}
    </SiteFrame>
  );
}
