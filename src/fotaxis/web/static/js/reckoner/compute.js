// Python in the browser: the reckoner's own modules answer here, so that it works without the server.
// First comes {begin: {python, core}}: the folder of Python's machine and the archive of modules; then questions with a number each.
let answered = null;

async function begin({ python, core }) {
  const { loadPyodide } = await import(`${python}pyodide.mjs`);
  const machine = await loadPyodide({ indexURL: python, packageBaseUrl: python });
  const modules = await fetch(core);
  if (!modules.ok) throw new Error(`the modules were answered with ${modules.status}`);
  machine.unpackArchive(await modules.arrayBuffer(), "zip", { extractDir: "/reckoner" });
  return machine.runPython(`
import json, sys
sys.path.insert(0, "/reckoner")
from fotaxis.core.reckoner.asked import asked
from fotaxis.core.errors import FotaxisError

def answered(question):
    try:
        return json.dumps(asked(json.loads(question)))
    except FotaxisError as error:
        return json.dumps({"problem": str(error)})

answered`);
}

addEventListener("message", async ({ data }) => {
  if (data.begin) {
    answered = begin(data.begin);
    answered.then(() => postMessage({ ready: true }), (error) => postMessage({ failed: String(error) }));
    return;
  }
  postMessage({ number: data.number, answer: JSON.parse((await answered)(JSON.stringify(data.question))) });
});
