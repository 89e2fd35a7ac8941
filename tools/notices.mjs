// Third-party notices: each package that ships with Lit Fuse, its version and its licence, read from the lock files and
// from what the packages say of themselves. `node tools/notices.mjs` writes docs/third-party.md; with --check it says
// whether the page is as it would be made, and exits with 1 where it is not.
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { homedir } from "node:os";
import { join } from "node:path";

const root = new URL("..", import.meta.url).pathname;
const page = join(root, "docs/third-party.md");
const cache = process.env.NUGET_PACKAGES ?? join(homedir(), ".nuget/packages");

/** Packages of the front end that are built into it. */
function ofNpm() {
  const { packages } = JSON.parse(readFileSync(join(root, "package-lock.json"), "utf8"));
  return Object.entries(packages)
    .filter(([path, p]) => path && !p.dev && !p.optional && !p.peer)
    .map(([path, p]) => [path.slice(path.lastIndexOf("node_modules/") + 13), p.version, p.license ?? "not said"]);
}

/** Packages of the programs, by what each program locked; analyzers and tools of the build stay there. */
function ofNuGet() {
  const found = new Map();
  for (const project of readdirSync(join(root, "src"))) {
    const lock = join(root, "src", project, "packages.lock.json");
    if (!existsSync(lock)) continue;
    for (const target of Object.values(JSON.parse(readFileSync(lock, "utf8")).dependencies)) {
      for (const [name, { type, resolved }] of Object.entries(target)) {
        if (type !== "Project" && !/Analyzer|ApiDescription\.Server|EntityFrameworkCore\.Design|CodeAnalysis|^Microsoft\.Build/.test(name))
          found.set(`${name} ${resolved}`, [name, resolved, licence(name, resolved)]);
      }
    }
  }
  return [...found.values()];
}

function licence(name, version) {
  const folder = join(cache, name.toLowerCase(), version.toLowerCase());
  const spec = readFileSync(join(folder, `${name.toLowerCase()}.nuspec`), "utf8");
  const [, kind, said] = /<license type="(\w+)">([^<]+)</.exec(spec) ?? [];
  return kind === "expression" ? said : kind === "file" ? `in its package: ${said}` : (/<licenseUrl>([^<]+)</.exec(spec)?.[1] ?? "not said");
}

const table = (rows) =>
  `| package | version | licence |\n| --- | --- | --- |\n${[...new Set(rows.map((r) => `| ${r.join(" | ")} |`))].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1)).join("\n")}\n`;

const made = `# Third-party notices

What others made and Lit Fuse ships with. Made from the lock files by \`node tools/notices.mjs\`; \`./test\` holds it against them.

## In the programs

${table(ofNuGet())}
DejaVu Sans Condensed, the letters in PDFs: [DejaVu Fonts License](https://dejavu-fonts.github.io/License.html) (Bitstream Vera and public domain).

## In the pages

${table(ofNpm())}`;

if (process.argv.includes("--check")) {
  const same = existsSync(page) && readFileSync(page, "utf8") === made;
  if (!same) console.error("docs/third-party.md is not as the lock files say: run node tools/notices.mjs");
  process.exit(same ? 0 : 1);
}
writeFileSync(page, made);
