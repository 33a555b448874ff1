// Draws the demo's pictures and writes them into `demo/pictures/`: node demo/draw-pictures.mjs
// They stand for what a tablet's camera would have taken; each is drawn here, from nothing else.
import { mkdirSync } from 'node:fs'
import { chromium } from '../web/node_modules/@playwright/test/index.mjs'

const WIDTH = 1000
const HEIGHT = 750
const here = new URL('pictures/', import.meta.url).pathname
mkdirSync(here, { recursive: true })

const bench = `
  <defs>
    <linearGradient id="steel" x1="0" y1="0" x2="1" y2="1">
      <stop offset="0" stop-color="#e8ecea"/><stop offset="0.45" stop-color="#9aa39f"/><stop offset="1" stop-color="#4a524e"/>
    </linearGradient>
    <linearGradient id="cast" x1="0" y1="0" x2="0" y2="1">
      <stop offset="0" stop-color="#b9bdb8"/><stop offset="1" stop-color="#7d837e"/>
    </linearGradient>
    <radialGradient id="lamp" cx="0.35" cy="0.25" r="0.9">
      <stop offset="0" stop-color="#6d5138"/><stop offset="0.6" stop-color="#4a3626"/><stop offset="1" stop-color="#251a12"/>
    </radialGradient>
    <filter id="rough"><feTurbulence baseFrequency="0.7" numOctaves="3" seed="4"/><feColorMatrix type="saturate" values="0"/>
      <feComponentTransfer><feFuncA type="linear" slope="0.16"/></feComponentTransfer></filter>
  </defs>
  <rect width="${WIDTH}" height="${HEIGHT}" fill="url(#lamp)"/>
  ${Array.from({ length: 9 }, (_, i) => `<path d="M0 ${40 + i * 86} Q 500 ${20 + i * 90} 1000 ${48 + i * 84}" stroke="#000" stroke-opacity="0.16" fill="none" stroke-width="2"/>`).join('')}`

/** Teeth all round a circle, some of them broken off. */
function gear(cx, cy, r, teeth, broken = []) {
  const at = (a, d) => `${(cx + Math.cos(a) * d).toFixed(1)} ${(cy + Math.sin(a) * d).toFixed(1)}`
  const step = (2 * Math.PI) / teeth
  const points = []
  for (let t = 0; t < teeth; t++) {
    const a = t * step
    const tip = broken.includes(t) ? r * 0.94 : r * 1.09
    points.push(at(a - step * 0.32, r * 0.93), at(a - step * 0.18, tip), at(a + step * 0.18, tip * (broken.includes(t) ? 0.98 : 1)), at(a + step * 0.32, r * 0.93))
  }
  return `M${points.join('L')}Z`
}

const pitted = (cx, cy, count, spread) =>
  Array.from({ length: count }, (_, i) => {
    const a = i * 2.4
    const d = spread * Math.sqrt(i / count)
    return `<ellipse cx="${cx + Math.cos(a) * d}" cy="${cy + Math.sin(a) * d * 0.6}" rx="${2 + (i % 4)}" ry="${1.5 + (i % 3)}" fill="#1d211f" fill-opacity="0.7"/>`
  }).join('')

/** A gear with five of its teeth pitted. */
const pittedGear = (teeth, r) => `${bench}
    <ellipse cx="520" cy="430" rx="${r + 60}" ry="${r - 20}" fill="#000" fill-opacity="0.4"/>
    <path d="${gear(490, 380, r, teeth)}" fill="url(#steel)" stroke="#2b302d" stroke-width="4"/>
    <circle cx="490" cy="380" r="${r * 0.74}" fill="none" stroke="#2b302d" stroke-opacity="0.5" stroke-width="5"/>
    <circle cx="490" cy="380" r="92" fill="#3b2b1e" stroke="#2b302d" stroke-width="8"/>
    ${[0, 1, 2, 3, 4].map((t) => {
      const a = (t * 2 * Math.PI) / teeth
      return pitted(490 + Math.cos(a) * r, 380 + Math.sin(a) * r, 14, 400 / teeth)
    }).join('')}
    <path d="M960 200 L838 352" stroke="#f2c14b" stroke-width="9"/><path d="M818 378l8 -36 22 18z" fill="#f2c14b"/>`

const PICTURES = {
  'mark-t5': `${bench}
    <path d="M60 120 Q500 40 940 130 L930 660 Q500 730 70 650Z" fill="url(#cast)" stroke="#3d423f" stroke-width="5"/>
    <rect width="${WIDTH}" height="${HEIGHT}" filter="url(#rough)"/>
    <g transform="translate(330 390)" stroke="#4b504d" stroke-width="9" fill="none">
      <circle r="118"/><circle r="34"/>${Array.from({ length: 7 }, (_, i) => `<path d="M0 -34V-118" transform="rotate(${(i * 360) / 7})"/>`).join('')}
    </g>
    <text x="520" y="440" font-family="Arial, sans-serif" font-weight="800" font-size="190" fill="#a9aea9" stroke="#4b504d" stroke-width="5">T5</text>
    <circle cx="730" cy="560" r="46" fill="#5d625f" stroke="#2f3331" stroke-width="6"/><path d="M706 560h48" stroke="#2f3331" stroke-width="10"/>`,
  'pitted-third-input': pittedGear(27, 270),
  'pitted-third': pittedGear(35, 300),
  'chipped-dogs': `${bench}
    <ellipse cx="520" cy="430" rx="310" ry="230" fill="#000" fill-opacity="0.4"/>
    <path d="${gear(500, 380, 240, 42)}" fill="url(#steel)" stroke="#2b302d" stroke-width="4"/>
    <path d="${gear(500, 380, 150, 24, [3, 4, 5, 11])}" fill="#c9cfcb" stroke="#2b302d" stroke-width="4"/>
    <circle cx="500" cy="380" r="84" fill="#3b2b1e" stroke="#2b302d" stroke-width="8"/>
    <path d="M820 640 L640 505" stroke="#f2c14b" stroke-width="9"/><path d="M612 483l38 4 -18 26z" fill="#f2c14b"/>`,
  'worn-pads': `${bench}
    <path d="M180 600 Q170 180 500 150 Q830 180 820 600 L720 600 Q720 270 500 255 Q280 270 280 600Z" fill="url(#steel)" stroke="#2b302d" stroke-width="5"/>
    <rect x="455" y="60" width="90" height="130" rx="14" fill="url(#steel)" stroke="#2b302d" stroke-width="5"/>
    <path d="M184 560h92v60h-92z" fill="#d8b25c" stroke="#2b302d" stroke-width="4"/><path d="M724 586h92v34h-92z" fill="#b98f3c" stroke="#2b302d" stroke-width="4"/>
    <path d="M724 590 l92 12" stroke="#2b302d" stroke-width="3"/>
    <path d="M930 470 L832 580" stroke="#f2c14b" stroke-width="9"/><path d="M812 603l8 -36 22 20z" fill="#f2c14b"/>`,
  'wet-shaft': `${bench}
    <path d="M40 180 Q500 120 960 190 L960 620 Q500 690 40 610Z" fill="url(#cast)" stroke="#3d423f" stroke-width="5"/>
    <rect width="${WIDTH}" height="${HEIGHT}" filter="url(#rough)"/>
    <circle cx="430" cy="370" r="170" fill="#2d2f2e" stroke="#1d1f1e" stroke-width="8"/><circle cx="430" cy="370" r="120" fill="url(#steel)" stroke="#1d1f1e" stroke-width="5"/>
    <path d="M300 470 Q250 560 300 690 Q420 700 470 690 Q540 600 520 500 Q420 560 300 470Z" fill="#3a2a10" fill-opacity="0.75"/>
    <path d="M350 560 Q380 620 360 680" stroke="#d9b35a" stroke-opacity="0.6" stroke-width="7" fill="none"/>`,
}

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] })
const page = await browser.newPage({ viewport: { width: WIDTH, height: HEIGHT } })
for (const [name, drawn] of Object.entries(PICTURES)) {
  await page.setContent(`<style>body{margin:0}</style><svg width="${WIDTH}" height="${HEIGHT}">${drawn}</svg>`)
  await page.screenshot({ path: `${here}${name}.jpg`, type: 'jpeg', quality: 72 })
}
await browser.close()
