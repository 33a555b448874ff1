import { cleanup } from '@testing-library/react'
import { afterEach } from 'vitest'

// What one test has drawn is not there for the next.
afterEach(cleanup)
