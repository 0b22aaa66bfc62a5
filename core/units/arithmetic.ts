/**
 * The value of a typed number or sum ("3*12.5", "(40+2)/3", "1,200"); null when it is not one. Only + − × ÷ and brackets: number fields
 * take arithmetic without anything ever being evaluated as code.
 */
export function arithmetic(text: string): number | null {
  const tokens = text
    .replace(/,(?=\d{3}\b)/g, "")
    .replace(/[×x]/g, "*")
    .replace(/÷/g, "/")
    .replace(/[−–]/g, "-")
    .match(/\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[-+*/()]|\S/gi);
  if (!tokens) return null;
  let at = 0;
  const sum = (): number | null => {
    let value = product();
    while (value !== null && (tokens[at] === "+" || tokens[at] === "-")) {
      const minus = tokens[at++] === "-";
      const next = product();
      value = next === null ? null : value + (minus ? -next : next);
    }
    return value;
  };
  const product = (): number | null => {
    let value = factor();
    while (value !== null && (tokens[at] === "*" || tokens[at] === "/")) {
      const divide = tokens[at++] === "/";
      const next = factor();
      if (next === null) value = null;
      else value = divide ? value / next : value * next;
    }
    return value;
  };
  const factor = (): number | null => {
    const token = tokens[at++];
    if (token === "-") {
      const inner = factor();
      return inner === null ? null : -inner;
    }
    if (token === "(") {
      const inner = sum();
      return tokens[at++] === ")" ? inner : null;
    }
    if (token === undefined || !/^[\d.]/.test(token)) return null;
    const value = Number(token);
    return Number.isFinite(value) ? value : null;
  };
  const value = sum();
  return at === tokens.length && value !== null && Number.isFinite(value) ? value : null;
}
