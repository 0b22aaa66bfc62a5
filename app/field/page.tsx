import { Suspense } from "react";
import { FieldApp } from "@/components/field/field-app";

/** The same page for everyone: what is on it stands on the phone, which opens it without a connection too. */
export default function FieldPage() {
  return (
    <Suspense>
      <FieldApp />
    </Suspense>
  );
}
