"use client";
import { ImageUp, Trash2 } from "lucide-react";
import { useLogo } from "@/components/data/use-organisation";
import { Button } from "@/components/kit/button";
import { FileButton } from "@/components/kit/file-button";
import { Problem } from "@/components/kit/notice";

/** What stands on the organisation's paper. */
export function LogoField() {
  const { logo, problem, change, takeOut } = useLogo();
  const refused = change.error ?? takeOut.error;
  return (
    <div className="max-w-xl">
      <p className="mb-2 text-faint">Stands at the head of every sheet that is printed. PNG or JPEG, up to 1 MB.</p>
      {problem && <Problem>{problem}</Problem>}
      {logo && (
        <div className="mb-3 inline-block border border-base-300 bg-white p-3">
          {/* biome-ignore lint/performance/noImgElement: it is behind the sign-in, and already as small as it need be */}
          <img
            src={`/api/organisation/logo/picture?v=${logo.version}`}
            alt="The logo as it stands"
            className="max-h-24"
          />
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        <FileButton
          name="Logo"
          accept="image/png,image/jpeg"
          icon={ImageUp}
          disabled={change.isPending}
          onFile={(file) => change.mutate(file)}
        >
          {logo ? "Another logo…" : "Choose a logo…"}
        </FileButton>
        {logo && (
          <Button rank="quiet" icon={Trash2} disabled={takeOut.isPending} onClick={() => takeOut.mutate()}>
            Take it out
          </Button>
        )}
      </div>
      {refused && <Problem className="mt-2">{refused.message}</Problem>}
    </div>
  );
}
