import type { Program, SiteFile, Station } from "../site-file/schema.ts";
import { monthOf } from "../dates/wall-time.ts";

/**
 * Run time in whole seconds after seasonal percents of site, program and the month of `date`, and the day's percent from the weather
 * (percentages multiply, handbook#6-programs). Rounded once at the end, half up, on exact decimals: 1800 × 0.75 × 1.10 × 0.90 = 1336.5 → 1337.
 */
export function adjustedSeconds(site: SiteFile, program: Program, minutes: number, date: string): number {
  const factors = [
    site.site.seasonalPercent ?? 100,
    program.seasonalPercent ?? 100,
    program.monthlyPercent?.[monthOf(date) - 1] ?? 100,
    weatherPercent(site, date) ?? 100,
  ];
  let value = 0n;
  let scale = 0;
  const first = decimal(minutes);
  value = first.digits * 60n;
  scale = first.scale;
  for (const percent of factors) {
    const d = decimal(percent);
    value *= d.digits;
    scale += d.scale + 2;
  }
  const unit = 10n ** BigInt(scale);
  return Number((2n * value + unit) / (2n * unit));
}

/** The percent the weather makes of a local date; undefined where none is given or it is bypassed. */
export function weatherPercent(site: SiteFile, date: string): number | undefined {
  return site.site.weatherPercentBypassed === true
    ? undefined
    : site.site.weatherPercents?.find((w) => w.date === date)?.percent;
}

/** A number's shortest decimal spelling as integer digits × 10^−scale. Non-negative input. */
function decimal(value: number): { digits: bigint; scale: number } {
  const text = value.toString();
  const [mantissa = "0", exponent = "0"] = text.split("e");
  const [whole = "0", fraction = ""] = mantissa.split(".");
  const scale = fraction.length - Number(exponent);
  const digits = BigInt(whole + fraction);
  return scale >= 0 ? { digits, scale } : { digits: digits * 10n ** BigInt(-scale), scale: 0 };
}

/** How a station's runs in a program are divided, and its soak in seconds: its own, else the program's, each for itself (site-file#additions). */
export function cycleAndSoak(station: Station, program: Program): { cycle: Station["cycle"]; soakS: number } {
  return {
    cycle: station.cycle ?? program.cycle,
    soakS: Math.round((station.soakMin ?? program.soakMin ?? 0) * 60),
  };
}

/**
 * Splits a run into cycles, seconds (handbook#6-programs). Longest cycle: 22 min at most 5 → 5 5 5 5 2. Number of cycles: equal
 * parts, spare seconds one each to the first. Nothing to run: no cycles.
 */
export function cyclesOf(cycle: Station["cycle"], seconds: number): number[] {
  if (seconds <= 0) return [];
  if (!cycle) return [seconds];
  if ("longestMin" in cycle) {
    const longest = Math.max(1, Math.round(cycle.longestMin * 60));
    const whole = Math.floor(seconds / longest);
    const rest = seconds - whole * longest;
    return [...Array<number>(whole).fill(longest), ...(rest > 0 ? [rest] : [])];
  }
  const each = Math.floor(seconds / cycle.count);
  const spare = seconds - each * cycle.count;
  return Array.from({ length: cycle.count }, (_, i) => each + (i < spare ? 1 : 0)).filter((s) => s > 0);
}
