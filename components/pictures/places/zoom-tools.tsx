"use client";
import { useReactFlow } from "@xyflow/react";
import { Maximize, ZoomIn, ZoomOut } from "lucide-react";
import { IconButton } from "@/components/kit/button";

/** Nearer, farther, and all of it, in the corner of what is drawn. @property whole what all of it is called */
export function ZoomTools({ whole, fit }: { whole: string; fit: { padding: number; maxZoom?: number } }) {
  const flow = useReactFlow();
  return (
    <div className="no-print absolute right-2 top-2 flex bg-base-100">
      <IconButton label="Nearer" icon={ZoomIn} onClick={() => flow.zoomIn({ duration: 0 })} />
      <IconButton label="Farther" icon={ZoomOut} onClick={() => flow.zoomOut({ duration: 0 })} />
      <IconButton label={whole} icon={Maximize} onClick={() => flow.fitView({ ...fit, duration: 0 })} />
    </div>
  );
}
