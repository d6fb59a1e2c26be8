// Runs one program after another, given by folder and file, each in a worker of its own: starting the interpreter for
// each takes long. Answers with a line of three numbers, the status and the lengths of output and errors, then with these.
const path = require('path')
const readline = require('readline')
const { Worker } = require('worker_threads')

const LONGEST = 20000

function run (folder, main) {
  return new Promise((resolve) => {
    process.chdir(folder)
    const out = []
    const err = []
    const worker = new Worker(path.join(folder, main), { stdout: true, stderr: true })
    const late = setTimeout(() => worker.terminate(), LONGEST)
    worker.stdout.on('data', (d) => out.push(d))
    worker.stderr.on('data', (d) => err.push(d))
    worker.on('error', (e) => err.push(Buffer.from(`${(e && e.stack) || e}\n`)))
    worker.on('exit', (status) => {
      clearTimeout(late)
      // what it has written comes behind its end
      setImmediate(() => resolve([status, Buffer.concat(out), Buffer.concat(err)]))
    })
  })
}

async function serve () {
  for await (const line of readline.createInterface({ input: process.stdin })) {
    const [folder, main] = line.split('\t')
    const [status, out, err] = await run(folder, main)
    process.stdout.write(Buffer.concat([Buffer.from(`${status} ${out.length} ${err.length}\n`), out, err]))
  }
}

serve()
