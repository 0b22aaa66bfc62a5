import { ControllersScreen } from "@/components/screens/controllers/controllers-screen";

export default function Page() {
  return <ControllersScreen />;
}
