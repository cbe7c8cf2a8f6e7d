// node validate.mjs FILE...: prints what gltf-validator has to say, as JSON, one line a file.
import { readFile } from "node:fs/promises";
import validator from "gltf-validator";

for (const path of process.argv.slice(2)) {
  const report = await validator.validateBytes(new Uint8Array(await readFile(path)));
  const { numErrors, numWarnings, messages } = report.issues;
  console.log(JSON.stringify({ path, numErrors, numWarnings, messages }));
}
