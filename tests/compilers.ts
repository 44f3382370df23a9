import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import type { CodeFile } from '../core/definitions/made-by.ts'

/** Where Debian puts the persistence API, which has its names from before they were Jakarta's. */
export const PERSISTENCE_API = '/usr/share/java/eclipselink-jpa-2.1-spec.jar'

/** Runs a compiler over files in a folder of their own, and gives what it says against them; nothing where it takes all. */
function compiled(files: readonly CodeFile[], command: string, args: readonly string[]): string {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-compiler-'))
  try {
    for (const { path, text } of files) {
      mkdirSync(dirname(join(folder, path)), { recursive: true })
      writeFileSync(join(folder, path), text)
    }
    const { status, stdout, stderr, error } = spawnSync(command, args, {
      cwd: folder,
      encoding: 'utf8',
      maxBuffer: 1 << 26
    })
    if (error) throw error
    return status === 0 ? '' : `${stdout}${stderr}`.slice(0, 4000) || `ended with ${status}`
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** PHP loads every file, all in one run, and finds each class that they are called after. */
export const phpErrors = (files: readonly CodeFile[]): string =>
  compiled(files, 'php', [
    '-d',
    'error_reporting=E_ALL',
    '-r',
    `set_error_handler(function ($n, $said) { fwrite(STDERR, $said); exit(1); });
     foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator('.', FilesystemIterator::SKIP_DOTS)) as $file) require $file;`
  ])

/** Python runs every file and looks up what all annotations name. */
export const pythonErrors = (files: readonly CodeFile[]): string =>
  compiled(files, 'python3', [
    '-c',
    `import glob, importlib, typing, sys
sys.path.insert(0, '.')
for path in glob.glob('*.py'):
    module = importlib.import_module(path[:-3])
    for each in list(vars(module).values()):
        if isinstance(each, type) and each.__module__ == module.__name__:
            typing.get_type_hints(each)`
  ])

/** C#'s compiler takes all files as one library; warnings are errors. */
export const csharpErrors = (files: readonly CodeFile[]): string =>
  compiled(files, 'mcs', [
    '-target:library',
    '-warnaserror',
    '-out:rows.dll',
    '-r:System.Runtime.Serialization.dll',
    '-recurse:*.cs'
  ])

/** Java's compiler takes all files, against the persistence API by the names that it had before. */
export function javaErrors(files: readonly CodeFile[]): string {
  const renamed = files.map(({ path, text }) => ({
    path,
    text: text.replaceAll('jakarta.persistence', 'javax.persistence')
  }))
  const list = { path: 'files.txt', text: files.map(({ path }) => path).join('\n') }
  return compiled([...renamed, list], 'javac', [
    ...[
      '-encoding',
      'UTF-8',
      '-d',
      'out',
      '-proc:none',
      '-Xlint:all,-serial',
      '-Werror',
      '-cp',
      PERSISTENCE_API
    ],
    '@files.txt'
  ])
}
