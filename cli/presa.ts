import { parseArgs } from "node:util";
import { COMMANDS } from "./commands.ts";
import { RequestError, say, UsageError } from "./input.ts";

const USAGE = `Presa computes from one site file; it opens no real valves.

  presa check FILE
  presa ceilings FILE
  presa pressures FILE [--date D]
  presa inp FILE
  presa plan FILE --date YYYY-MM-DD [--optimize] [--seconds S]
  presa learn FILE [--stations a,b] [--faults F] [--seed N] [--date D] [--exact]
  presa simulate FILE --date D [--faults F] [--seed N] [--exact] [--readings OUT.csv]
  presa reckon FILE --readings LOG.csv [--readings LOG.csv …]
  presa apart FILE --date D [--readings LOG.csv …] [--seed N] [--seconds S]
  presa compare FILE --date D --faults F --policies P [--seed N] [--exact]
  presa limits FILE --date D [--trips 1] [--count lateral|outlet] [--seed N] [--seconds S]
  presa watchable FILE --date D [--every] [--trips 1] [--seed N] [--seconds S]
  presa calibrate TESTS

One JSON document on standard output (inp: an EPANET input file), words on standard error.
Exit 0 done; 1 the file or the request is wrong; 2 used wrongly.
`;

async function main(argv: string[]): Promise<number> {
  const { values, positionals } = readArguments(argv);
  if (values.help) {
    process.stderr.write(USAGE);
    return 0;
  }
  const [name, file, ...rest] = positionals;
  if (!name) throw new UsageError("no command");
  const command = Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined;
  if (!file || rest.length > 0) throw new UsageError(`${name} takes one file`);
  if (!command) throw new UsageError(`there is no command "${name}"`);
  const written = await command(file, values);
  if ("text" in written) process.stdout.write(written.text);
  else print(written.json);
  return "exit" in written ? (written.exit ?? 0) : 0;
}

function readArguments(argv: string[]) {
  const config = {
    args: argv,
    allowPositionals: true,
    options: {
      date: { type: "string" },
      optimize: { type: "boolean" },
      seconds: { type: "string" },
      stations: { type: "string" },
      faults: { type: "string" },
      policies: { type: "string" },
      seed: { type: "string" },
      exact: { type: "boolean" },
      readings: { type: "string", multiple: true },
      trips: { type: "string" },
      count: { type: "string" },
      every: { type: "boolean" },
      help: { type: "boolean", short: "h" },
    },
  } as const;
  try {
    return parseArgs(config);
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error));
  }
}

function print(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value, null, 1)}\n`);
}

try {
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  if (error instanceof UsageError) {
    say(`${error.message}\n\n${USAGE}`);
    process.exitCode = 2;
  } else if (error instanceof RequestError) {
    print({ error: error.problem });
    say(error.problem.message);
    process.exitCode = 1;
  } else throw error;
}
