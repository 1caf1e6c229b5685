import { availableParallelism } from 'node:os'
import { defineConfig } from 'vitest/config'

// Jobs of tests go by the clocks of this computer, which are the same everywhere then.
process.env.TZ = 'UTC'

/** Milliseconds. Machines may be crowded, and slow besides: a limit tells what hangs, not what is slow. */
const PATIENT = { testTimeout: 900_000, hookTimeout: 900_000 }

/** Every answer of an endpoint is held against its contract. */
const env = { LUMBRIN_CHECK_ANSWERS: 'yes' }

const UNIT = ['packages/*/src/**/*.test.{ts,tsx}', 'apps/*/src/**/*.test.{ts,tsx}']
const SOURCES = ['packages/*/src/**/*.sources.test.ts', 'tests/contributing/*.test.ts']

export default defineConfig({
  test: {
    // One more than it takes of itself: the process that hands files out has nothing to do meanwhile.
    maxWorkers: Math.max(2, availableParallelism() - 1),
    projects: [
      {
        test: {
          name: 'unit',
          include: UNIT,
          exclude: SOURCES,
          // What they test keeps nothing between two tests, and half of the time would go into loading it anew.
          isolate: false,
          env,
          ...PATIENT,
        },
      },
      {
        // Beside their files too: they read the demo's sources, which take a while to make.
        test: {
          name: 'sources',
          include: SOURCES,
          globalSetup: ['tests/setup/demo.ts', 'tests/setup/programs.ts'],
          isolate: false,
          env,
          ...PATIENT,
        },
      },
      {
        test: {
          name: 'integration',
          include: ['tests/integration/**/*.test.ts'],
          globalSetup: ['tests/setup/demo.ts', 'tests/setup/database.ts', 'tests/setup/programs.ts'],
          setupFiles: ['tests/setup/anew.ts'],
          isolate: false,
          env,
          ...PATIENT,
        },
      },
    ],
  },
})
