// Chromium as the measuring scripts start it.
import { chromium } from '@playwright/test'
import { launchOptions } from '../chromium.mjs'

export const launch = () => chromium.launch(launchOptions)
