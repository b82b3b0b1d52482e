// Builds what the browser gets into ../static: one style sheet, one script and
// the fonts, each with its content's hash in its name, compressed beforehand,
// and a manifest that says which is which.
import { build } from "esbuild";
import * as sass from "sass";
import { brotliCompressSync, gzipSync, constants } from "node:zlib";
import { mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url));
const out = join(here, "..", "static");
mkdirSync(out, { recursive: true });
for (const name of readdirSync(out)) {
  if (name !== ".keep" && name !== "licences.txt") rmSync(join(out, name), { recursive: true });
}

const css = sass.compile(join(here, "src", "app.scss"), {
  loadPaths: [join(here, "node_modules")],
  quietDeps: true,
  silenceDeprecations: ["import"],
}).css;

const common = {
  absWorkingDir: here,
  bundle: true,
  minify: true,
  metafile: true,
  outdir: out,
  entryNames: "app-[hash]",
  assetNames: "[name]-[hash]",
  target: "es2022",
  legalComments: "none",
  logLevel: "warning",
  loader: { ".woff2": "file", ".svg": "file" },
};
const styles = await build({
  ...common,
  stdin: { contents: css, resolveDir: here, loader: "css", sourcefile: "app.css" },
});
const scripts = await build({ ...common, entryPoints: ["src/app.js"] });

const manifest = {};
for (const meta of [styles.metafile, scripts.metafile]) {
  for (const file of Object.keys(meta.outputs)) {
    const name = file.split("/").pop();
    if (name.endsWith(".css")) manifest["app.css"] = name;
    if (name.endsWith(".js")) manifest["app.js"] = name;
    if (name.startsWith("atkinson") && name.endsWith(".woff2")) manifest["text.woff2"] = name;
    if (name.startsWith("bricolage") && name.endsWith(".woff2")) manifest["head.woff2"] = name;
  }
}
writeFileSync(join(out, "manifest.json"), JSON.stringify(manifest, null, 2) + "\n");

let sent = 0;
for (const name of readdirSync(out)) {
  if (!/\.(css|js)$/.test(name)) continue;
  const data = readFileSync(join(out, name));
  const br = brotliCompressSync(data, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } });
  writeFileSync(join(out, name + ".br"), br);
  writeFileSync(join(out, name + ".gz"), gzipSync(data, { level: 9 }));
  sent += br.length;
}
console.log(`assets: ${sent} bytes of script and style over the wire (brotli)`);
