// Python in the browser: the reckoner's own modules answer here, so that it works without the server.
// Addresses: ?python= the folder of Python's machine, ?core= the archive of modules.
const asked = new URLSearchParams(location.search);
const python = asked.get("python");

async function begin() {
  const { loadPyodide } = await import(`${python}pyodide.mjs`);
  const machine = await loadPyodide({ indexURL: python, packageBaseUrl: python });
  const core = await fetch(asked.get("core"));
  if (!core.ok) throw new Error(`the modules were answered with ${core.status}`);
  machine.unpackArchive(await core.arrayBuffer(), "zip", { extractDir: "/reckoner" });
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

const ready = begin();
ready.then(() => postMessage({ ready: true }), (error) => postMessage({ failed: String(error) }));

addEventListener("message", async ({ data: { number, question } }) => {
  postMessage({ number, answer: JSON.parse((await ready)(JSON.stringify(question))) });
});
