import { ProgramsScreen } from "@/components/screens/programs/programs-screen";

export default function Page() {
  return <ProgramsScreen />;
}
