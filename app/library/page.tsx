import { redirect } from "next/navigation";
import { LibraryScreen } from "@/components/screens/library/library-screen";
import { signedIn } from "@/server/auth/session";

export default async function LibraryPage() {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <LibraryScreen canEdit={user.role !== "viewer"} who={`${user.name}, ${user.role}`} />;
}
