// How long the sums without a job take to answer, one after the other on loopback. `sums.mjs URL`; run by
// scripts/screen-bench.
const [url] = process.argv.slice(2)
const unit = 'mm'
const window = { low: '0.1', high: '0.3' }
const sums = {
  piece: {
    readings: '0.62 0.63 0.62',
    step: '0.01',
    target: '',
    fitted: '',
    effect: 'closes',
    tolerance: '0.005',
    sizes: Array.from({ length: 40 }, (_, i) => (0.2 + i * 0.02).toFixed(2)).join(' '),
    most_pieces: 3,
    unit,
    ...window,
  },
  'known-shim': { set_ups: '0.08: 0.03\n0.10: 0.05', step: '0.002', unit, ...window },
  pinch: { off: '0.12', pinch: '0.05', fitted: '', unit },
  stack: { terms: '+ case: 40.00 ± 0.03\n- race: 19.50 ± 0.02\n- shaft: 20.40 ± 0.02', unit, ...window },
  hot: { clearance: '-0.06', case: 'aluminium: 300', inside: 'steel: 300', unit, ...window },
  centring: {
    gears: Array.from({ length: 6 }, (_, i) => `gear ${i + 1}: 0.${5 + (i % 4)}; 0.${9 - (i % 5)}`).join(
      '\n',
    ),
    left: '0.5 0.2 0.1 0.3',
    right: '0.3 0.1 0.2 0.4',
    unit,
  },
  rollers: { shaft: '22.4', roller: '3.5', rows: 2, count: null, unit },
  ratios: { gears: 'first 17:31 13:35\nfourth', input_turns: 1, output_turns: 0.2, give: 0.03 },
  'heat-fit': {
    bore: '61.97',
    bore_of: 'aluminium',
    part: '62',
    part_of: 'steel',
    clearance: '0.05',
    part_c: 20,
    limit_c: 120,
    unit,
  },
  pull: { pulls: '14 N; 15 N', radius: '75', step_n: 0.5, low_n_m: 1, high_n_m: 2, unit },
  units: { length: '25/32 in', unit, torque: 30, torque_unit: 'pound_foot' },
}
for (const [name, body] of Object.entries(sums)) {
  const times = []
  for (let i = 0; i < 400; i++) {
    const start = performance.now()
    const answer = await fetch(`${url}/api/calc/${name}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
    await answer.arrayBuffer()
    if (!answer.ok) throw new Error(`${name}: ${answer.status}`)
    // The first few pay for what is made once.
    if (i >= 20) times.push(performance.now() - start)
  }
  times.sort((a, b) => a - b)
  const at = (share) => times[Math.floor((times.length - 1) * share)].toFixed(1)
  console.log(`${name}: p50 ${at(0.5)} ms, p99 ${at(0.99)} ms`)
}
