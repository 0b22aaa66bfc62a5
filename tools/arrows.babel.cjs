// What dependency-cruiser reads the sources with: TypeScript 7 has no programming interface of its own yet. Type imports are kept, since an arrow is an
// arrow, and "@/…" is written as the path that it means.
const { dirname, relative, resolve } = require("node:path");

const root = resolve(__dirname, "..");
const asPath = (to, file) => (to.startsWith("@/") ? `./${relative(dirname(file), resolve(root, to.slice(2)))}` : to);

const plainImports = () => ({
  visitor: {
    Program(program, { filename }) {
      for (const node of program.node.body) {
        if (!node.source) continue;
        node.importKind = "value";
        node.exportKind = "value";
        for (const specifier of node.specifiers ?? []) {
          specifier.importKind = "value";
          specifier.exportKind = "value";
        }
        node.source.value = asPath(node.source.value, filename);
      }
    },
    CallExpression({ node }, { filename }) {
      const [to] = node.arguments;
      if (node.callee.type === "Import" && to?.type === "StringLiteral") to.value = asPath(to.value, filename);
    },
  },
});

module.exports = {
  plugins: [plainImports],
  presets: [["@babel/preset-typescript", { onlyRemoveTypeImports: true }]],
};
