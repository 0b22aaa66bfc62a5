"use client";
import { CopyPlus } from "lucide-react";
import { manyHref } from "@/components/draft/many-href";
import { Button, ButtonLink } from "@/components/kit/button";
import { Menu } from "@/components/kit/menu";
import { controllerSettings, copyController } from "@/core/site-file/copies";
import { patchController } from "@/components/draft/patch-element";
import { Figure } from "@/components/draft/figure";
import type { Patch } from "@/core/site-file/patch";
import { ChoiceField, NumberField, TextField, TickField } from "@/components/kit/fields";
import { useProfiles } from "@/components/data/use-profiles";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Controller } from "@/core/site-file/schema";
import { controllerLoad } from "@/core/wiring/load";
import { loadWords } from "../../words/rule-words";
import { WindowList } from "../../kit/window-list";

type Linking = "linked" | "share" | "hours" | "loose";

function linkingOf(controller: Controller): Linking {
  if (controller.unlinkedShare !== undefined) return "share";
  if (controller.unlinkedHours) return "hours";
  return controller.unlinked ? "loose" : "linked";
}

export function ControllerForm({ controller }: { controller: Controller }) {
  const { draft, edit, canEdit } = useWorkspace("draft", "edit", "canEdit");
  const put = (values: Patch<Controller>): void => edit(patchController(controller.id, values));
  const load = controllerLoad(draft, controller);
  const { all } = useProfiles();
  const linking = linkingOf(controller);
  const link = (to: Linking): void =>
    put({
      unlinked: to === "linked" ? undefined : true,
      unlinkedShare: to === "share" ? 0.5 : undefined,
      unlinkedHours: to === "hours" ? [{ from: "01:00", to: "05:00" }] : undefined,
    });
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      <TextField
        label="Name"
        value={controller.name}
        disabled={!canEdit}
        onCommit={(v) => put({ name: v.trim() || controller.name })}
      />
      <ChoiceField
        label="Powered by"
        value={controller.powered}
        disabled={!canEdit}
        options={[
          ["mains", "mains, 24 V AC to its valves"],
          ["battery", "battery, latching DC coils"],
        ]}
        onCommit={(v) => put({ powered: v })}
      />
      <Figure of={controller} at="maxStations" put={put} label="Stations at most" min={1} max={10_000} whole />
      <Figure of={controller} at="maxStationsAtOnce" put={put} label="Stations at once" min={1} max={10_000} whole />
      <ChoiceField
        label="With the other controllers"
        value={linking}
        disabled={!canEdit}
        options={[
          ["linked", "linked: one dispatch"],
          ["share", "unlinked, a fixed share"],
          ["hours", "unlinked, hours of its own"],
          ["loose", "unlinked, neither settled"],
        ]}
        onCommit={link}
      />
      {linking === "share" && (
        <NumberField
          label="Share of every ceiling"
          unit="%"
          value={Number(((controller.unlinkedShare ?? 0) * 100).toFixed(4))}
          min={0}
          max={100}
          required
          disabled={!canEdit}
          onCommit={(v) => put({ unlinkedShare: (v ?? 0) / 100 })}
        />
      )}
      {linking === "hours" && (
        <div className="col-span-2">
          <WindowList
            label="Its own hours; the others get nothing of its mains then"
            value={controller.unlinkedHours}
            onCommit={(hours) => put({ unlinkedHours: hours ?? [] })}
            disabled={!canEdit}
          />
        </div>
      )}
      {linking === "loose" && (
        <p className="col-span-2 text-sm border-l-4 border-warning pl-2">
          <strong>Caution.</strong> It will open valves whatever the others run. Give it a share, or hours of its own.
        </p>
      )}
      <ChoiceField
        label="Kind, by its profile"
        value={controller.profileId ?? ""}
        disabled={!canEdit}
        options={[
          ["", "none"],
          ...(controller.profileId && !all.some((p) => p.id === controller.profileId)
            ? [[controller.profileId, "a kind not described here"] as const]
            : []),
          ...all.map((p) => [p.id, p.name] as const),
        ]}
        hint="its setup sheet is rounded to it"
        onCommit={(v) => put({ profileId: v === "" ? undefined : v })}
      />
      <Figure of={controller} at="budgetMa" put={put} label="Current it can hold" unit="mA" min={0} max={1_000_000} />
      <div className="self-end">
        <TickField
          label="off"
          checked={controller.off === true}
          disabled={!canEdit}
          onCommit={(v) => put({ off: v ? true : undefined })}
        />
      </div>
      <p className="col-span-2 text-sm">{loadWords(load)}</p>
      {canEdit && (
        <div className="col-span-2">
          <CopySettings controller={controller} />
        </div>
      )}
    </div>
  );
}

/** Its settings for others: of this site, at once; of other sites, looked at first. */
function CopySettings({ controller }: { controller: Controller }) {
  const { draft, edit } = useWorkspace("draft", "edit");
  const settings = controllerSettings.parse(controller);
  const others = draft.controllers.filter((c) => c.id !== controller.id);
  return (
    <Menu label="Copy settings" icon={CopyPlus}>
      {(close) => [
        ...others.map((c) => (
          <Button
            key={c.id}
            rank="quiet"
            className="justify-start"
            onClick={() => {
              close();
              edit((file) => copyController(file, settings, new Set([c.id])));
            }}
          >
            to {c.name}
          </Button>
        )),
        <ButtonLink
          key="sites"
          rank="quiet"
          className="justify-start"
          href={manyHref({ kind: "controllersAs", settings, from: draft.site.name })}
        >
          to controllers of other sites
        </ButtonLink>,
      ]}
    </Menu>
  );
}
