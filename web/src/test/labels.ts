/** Every text that the interface shows, by the house it stands in: read from the sources themselves, and from what the kinds declare. */
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";
import declarations from "./declarations.json";

const SRC = join(__dirname, "..");
/** Attributes and properties whose text is read by somebody. */
const READ = new Set([
  "label",
  "title",
  "text",
  "help",
  "button",
  "placeholder",
  "aria-label",
  "children",
  "hint",
  "words",
  "message",
  "means",
  "note",
]);
const WORD = /[A-Za-z]{2}/;
/** Class names, colours, paths of drawings and the like are no words. */
const NO_LABEL = /^(#|--|\.|\/|M\d|[a-z0-9]+([-_.:/][a-z0-9-]+)+$|[a-z]+[A-Z])/;

function textOf(node: ts.Node): string | null {
  if (ts.isStringLiteralLike(node)) return node.text;
  if (ts.isTemplateExpression(node))
    return node.head.text + node.templateSpans.map((s) => `…${s.literal.text}`).join("");
  return null;
}

/** Texts that an expression may come to: both sides of a choice too. */
function textsIn(node: ts.Node): string[] {
  const own = textOf(node);
  if (own !== null) return [own];
  if (ts.isConditionalExpression(node)) return [...textsIn(node.whenTrue), ...textsIn(node.whenFalse)];
  if (ts.isParenthesizedExpression(node) || ts.isJsxExpression(node))
    return node.expression ? textsIn(node.expression) : [];
  if (ts.isBinaryExpression(node)) return [...textsIn(node.left), ...textsIn(node.right)];
  return [];
}

function labelsOf(file: string): string[] {
  const source = ts.createSourceFile(
    file,
    readFileSync(join(SRC, file), "utf8"),
    ts.ScriptTarget.Latest,
    true,
    file.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const found: string[] = [];
  const see = (node: ts.Node) => {
    if (ts.isJsxText(node)) found.push(node.text);
    else if (ts.isJsxExpression(node) && ts.isJsxElement(node.parent)) found.push(...textsIn(node));
    else if (ts.isJsxAttribute(node) && READ.has(node.name.getText()) && node.initializer)
      found.push(...textsIn(node.initializer));
    else if (ts.isPropertyAssignment(node) && READ.has(node.name.getText().replace(/"/g, "")))
      found.push(...textsIn(node.initializer));
    ts.forEachChild(node, see);
  };
  see(source);
  return found.map((t) => t.replace(/\s+/g, " ").trim()).filter((t) => WORD.test(t) && !NO_LABEL.test(t));
}

/** Texts by house, each once, in the order of the alphabet. */
export function labels(): Map<string, string[]> {
  const out = new Map<string, string[]>();
  const add = (house: string, texts: string[]) =>
    out.set(
      house,
      [...new Set([...(out.get(house) ?? []), ...texts])].sort((a, b) => a.localeCompare(b, "en")),
    );
  const files = (readdirSync(SRC, { recursive: true }) as string[]).filter(
    (f) => /\.tsx?$/.test(f) && !/\.test\.|^test\/|schema\.d\.ts$/.test(f),
  );
  for (const f of files.sort()) add(f.includes("/") ? f.split("/")[0]! : "app", labelsOf(f));
  for (const kind of Object.values(declarations.kinds)) {
    const fields = kind.fields.flatMap((f) => [f.label, f.help]);
    add(
      "kinds of steps",
      [kind.title, kind.help, ...fields].filter((t) => WORD.test(t)),
    );
  }
  return out;
}

export const asPage = (all: Map<string, string[]>): string =>
  [
    "# Labels\n",
    "Every text of the interface by the house of `web/src` it stands in, made by `npm run labels` in `web/`; a test keeps it fresh.",
    "`…` stands for what is put in.\n",
    ...[...all]
      .filter(([, texts]) => texts.length > 0)
      .flatMap(([house, texts]) => [`## ${house}\n`, ...texts.map((t) => `- ${t}`), ""]),
  ].join("\n");
