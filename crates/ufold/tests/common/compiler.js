// Compiles one TypeScript program after another, given by folder and file, as `tsc --strict --outDir out FILE` would:
// starting the compiler for each takes long. Answers with a line of two numbers, whether it failed and the length of
// what it says, and then with that.
const fs = require('fs')
const path = require('path')
const readline = require('readline')

const ts = require(path.join(path.dirname(fs.realpathSync(process.argv[2])), '../lib/typescript.js'))
const strict = {
  strict: true,
  skipLibCheck: true,
  noEmitOnError: true,
  target: ts.ScriptTarget.ES2022,
  module: ts.ModuleKind.CommonJS
}
const library = new Map()

function compile (folder, main) {
  const options = { ...strict, outDir: path.join(folder, 'out') }
  const host = ts.createCompilerHost(options)
  const read = host.getSourceFile
  host.getCurrentDirectory = () => folder
  host.getSourceFile = (file, ...rest) => {
    if (file.startsWith(folder)) return read(file, ...rest)
    if (!library.has(file)) library.set(file, read(file, ...rest))
    return library.get(file)
  }
  const program = ts.createProgram([path.join(folder, main)], options, host)
  const found = [...ts.getPreEmitDiagnostics(program), ...program.emit().diagnostics]
  return ts.formatDiagnostics(found, host)
}

readline.createInterface({ input: process.stdin }).on('line', (line) => {
  const [folder, main] = line.split('\t')
  const said = compile(folder, main)
  process.stdout.write(`${said === '' ? 0 : 1} ${Buffer.byteLength(said)} 0\n${said}`)
})
