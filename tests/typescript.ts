import ts from 'typescript'

const OPTIONS: ts.CompilerOptions = {
  strict: true,
  noEmit: true,
  noUnusedLocals: true,
  noUncheckedIndexedAccess: true,
  exactOptionalPropertyTypes: true,
  target: ts.ScriptTarget.ES2022,
  module: ts.ModuleKind.ESNext,
  moduleResolution: ts.ModuleResolutionKind.Bundler,
  types: [],
  skipLibCheck: true
}

/** What the compiler says against texts, all of them compiled strictly and at once: by the name of each. */
export function compileErrors(texts: ReadonlyMap<string, string>): string[] {
  const root = `${process.cwd()}/`
  const host = ts.createCompilerHost(OPTIONS)
  const [readFile, getSourceFile, fileExists] = [host.readFile, host.getSourceFile, host.fileExists]
  const own = (file: string): string | undefined => texts.get(file.replace(root, ''))
  host.fileExists = (file) => own(file) !== undefined || fileExists(file)
  host.readFile = (file) => own(file) ?? readFile(file)
  host.getSourceFile = (file, ...more) => {
    const text = own(file)
    return text === undefined
      ? getSourceFile(file, ...more)
      : ts.createSourceFile(file, text, OPTIONS.target ?? ts.ScriptTarget.ES2022)
  }
  const program = ts.createProgram(
    [...texts.keys()].map((name) => root + name),
    OPTIONS,
    host
  )
  return ts.getPreEmitDiagnostics(program).map(({ file, start = 0, messageText }) => {
    const line = file ? file.text.slice(0, start).split('\n').length : 0
    const source = file?.text.split('\n')[line - 1] ?? ''
    return `${file?.fileName.replace(root, '') ?? ''}:${line} ${ts.flattenDiagnosticMessageText(messageText, ' ')} in ${source}`
  })
}

/** What a module gives out once its types are taken out and it has run, with the packages that it asks for. */
export function runModule(
  text: string,
  packages: Readonly<Record<string, unknown>>
): Record<string, unknown> {
  const compilerOptions = { ...OPTIONS, module: ts.ModuleKind.CommonJS, noEmit: false }
  const { outputText } = ts.transpileModule(text, { compilerOptions })
  const given: Record<string, unknown> = {}
  // What runs is what was made here just now, and nothing else.
  new Function('require', 'exports', outputText)((name: string) => packages[name], given)
  return given
}
