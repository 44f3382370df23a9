import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeDesignFile } from '../../core/design/file.ts'
import type { Version } from '../../core/design/model.ts'
import { districts } from '../../demo/districts.ts'
import { serve } from '../serve.ts'
import { Apart } from './apart.ts'
import { judgeBackup } from './backup.ts'
import { openStore } from './open.ts'
import type { Store } from './store.ts'

const large = districts(300)
const versions = Array.from({ length: 4 }, (_, at): Version => ({
  number: at + 1,
  note: '',
  savedAt: '2026-05-03T07:40:00Z',
  design: { ...large, name: `Districts ${at}` }
}))

describe('what takes long to write', () => {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-apart-'))
  const to = join(folder, 'written')
  let store: Store
  let apart: Apart
  beforeAll(async () => {
    store = await openStore(join(folder, 'data'))
    await store.create({ file: { design: large, versions } })
    apart = new Apart(store, join(folder, 'data'))
  })
  afterAll(async () => {
    await store.close()
    rmSync(folder, { recursive: true, force: true })
  })

  it('is written in a process of its own, as it would be here', async () => {
    expect(await apart.write({ kind: 'file', design: large.id }, to)).toEqual([])
    expect(readFileSync(to, 'utf8')).toBe(writeDesignFile(large, versions))
    expect(await apart.write({ kind: 'backup' }, to)).toEqual([])
    await judgeBackup(to)
    expect(await apart.write({ kind: 'file', design: 'd_nowhere' }, to)).toBeUndefined()
  })

  it('ends with the server', async () => {
    const writing = apart.write({ kind: 'file', design: large.id }, to)
    await new Promise((resolve) => setTimeout(resolve, 50))
    apart.close()
    await expect(writing).rejects.toThrow('being stopped')
  })

  it('keeps nobody from being served meanwhile', async () => {
    const data = join(folder, 'served')
    const server = await serve({ port: 0, host: '127.0.0.1', data, demo: { design: large, versions } })
    try {
      let isWritten = false
      const written = fetch(`${server.address}api/designs/${large.id}/file`).then(async (answer) => {
        const text = await answer.text()
        isWritten = true
        return text
      })
      let served = 0
      while (!isWritten) {
        expect((await fetch(`${server.address}api/health`)).status).toBe(200)
        served++
      }
      expect(await written).toBe(writeDesignFile(large, versions))
      expect(served).toBeGreaterThan(10)
    } finally {
      await server.stop()
    }
  })
})
