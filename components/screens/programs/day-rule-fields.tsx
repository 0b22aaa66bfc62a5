"use client";
import { ChoiceField, NumberField, TickField } from "@/components/kit/fields";
import { DateField } from "@/components/kit/date-field";
import { Input } from "@/components/kit/inputs";
import { DayTicks } from "@/components/kit/window-list";
import { DAY_RULES, DAY_TYPES, type Days, type DaysOf, type DayType } from "@/core/dates/day-rules";

type FieldsOf<T extends DayType> = (props: {
  days: DaysOf<T>;
  disabled: boolean;
  onCommit: (days: DaysOf<T>) => void;
}) => React.ReactNode;

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** The fields of every rule of days, by kind; what a rule does stands in core/dates/day-rules.ts. */
const FIELDS: { [T in DayType]: FieldsOf<T> } = {
  weekdays: ({ days, disabled, onCommit }) => (
    <DayTicks
      label="Weekdays"
      days={days.days}
      disabled={disabled}
      onCommit={(chosen) => onCommit({ type: "weekdays", days: chosen })}
    />
  ),
  odd: ({ days, disabled, onCommit }) => (
    <TickField
      label="skip the 31st and 29 February"
      checked={days.skip31st === true}
      disabled={disabled}
      onCommit={(v) => onCommit({ type: "odd", ...(v ? { skip31st: true } : {}) })}
    />
  ),
  even: () => null,
  interval: ({ days, disabled, onCommit }) => (
    <div className="flex flex-wrap items-end gap-2">
      <NumberField
        label="Every, days"
        className="w-20"
        value={days.everyDays}
        min={1}
        max={30}
        whole
        required
        disabled={disabled}
        onCommit={(v) => onCommit({ ...days, everyDays: v ?? 1 })}
      />
      <DateField
        label="counted from"
        className="w-40"
        required
        value={days.anchor}
        disabled={disabled}
        onCommit={(v) => v && onCommit({ ...days, anchor: v })}
      />
      <div>
        <span className="block text-xs text-faint">never on</span>
        <DayTicks
          label="Never on"
          days={days.neverOn ?? []}
          disabled={disabled}
          onCommit={(never) => {
            const { neverOn: _, ...rest } = days;
            onCommit(never.length > 0 ? { ...rest, neverOn: never } : rest);
          }}
        />
      </div>
    </div>
  ),
  halfMonth: ({ days, disabled, onCommit }) => (
    <div>
      <div className="grid grid-cols-[auto_1fr_1fr] items-center gap-x-2 gap-y-0.5">
        <span className="text-xs text-faint">every … days</span>
        <span className="text-xs text-faint">1st to 15th</span>
        <span className="text-xs text-faint">from the 16th</span>
        {MONTHS.map((month, m) => (
          <div key={month} className="contents">
            <span className="text-xs">{month}</span>
            {[0, 1].map((half) => (
              <HalfField
                key={half}
                label={`${month}, ${half === 0 ? "1st to 15th" : "from the 16th"}, every so many days`}
                value={days.everyDays[2 * m + half] ?? 0}
                disabled={disabled}
                onCommit={(v) =>
                  onCommit({ ...days, everyDays: days.everyDays.map((x, i) => (i === 2 * m + half ? v : x)) })
                }
              />
            ))}
          </div>
        ))}
      </div>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <DateField
          label="counted from"
          className="w-40"
          required
          value={days.anchor}
          disabled={disabled}
          onCommit={(v) => v && onCommit({ ...days, anchor: v })}
        />
        <p className="text-xs text-faint">0: not in that half</p>
      </div>
    </div>
  ),
};

function HalfField({
  label,
  value,
  disabled,
  onCommit,
}: {
  label: string;
  value: number;
  disabled: boolean;
  onCommit: (value: number) => void;
}) {
  return (
    <Input
      key={value}
      className="h-7 text-right"
      inputMode="numeric"
      aria-label={label}
      defaultValue={value}
      disabled={disabled}
      onBlur={(e) => {
        const typed = Number(e.target.value);
        if (Number.isInteger(typed) && typed >= 0 && typed <= 60) {
          if (typed !== value) onCommit(typed);
        } else e.target.value = String(value);
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
      }}
    />
  );
}

/** On which days a program runs: the rule, and what it asks for. */
export function DayRuleFields({
  days,
  date,
  disabled,
  onCommit,
}: {
  days: Days;
  /** What a newly chosen rule counts from. */
  date: string;
  disabled: boolean;
  onCommit: (days: Days) => void;
}) {
  const Fields = FIELDS[days.type] as FieldsOf<DayType>;
  return (
    <div className="flex flex-col gap-2">
      <ChoiceField
        label="Days"
        value={days.type}
        disabled={disabled}
        options={DAY_TYPES.map((t) => [t, DAY_RULES[t].label] as const)}
        onCommit={(type) => onCommit(DAY_RULES[type].blank(date))}
      />
      <Fields days={days} disabled={disabled} onCommit={onCommit} />
    </div>
  );
}
