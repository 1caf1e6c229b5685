/** The control page of the demo's devices: what a technician would do with hands, done with switches. */
export const CONTROL_PAGE = `<!doctype html>
<html lang="en"><meta charset="utf-8"><title>Stand-in devices</title>
<style>
  body { font: 15px/1.5 system-ui, sans-serif; margin: 2rem auto; max-width: 60rem; color: #1d2b26; background: #faf7f0 }
  table { border-collapse: collapse; width: 100% } th, td { text-align: left; padding: .4rem .6rem; border-top: 1px solid #d8d2c4; vertical-align: top }
  label { display: inline-block; margin-right: .8rem } small { color: #5b665f } button, select { font: inherit }
</style>
<h1>Stand-in devices</h1>
<p>These devices are played by a program. What hands would do with a phone on the bench, these switches do.</p>
<table><thead><tr><th>Device</th><th>State</th><th>Switches</th></tr></thead><tbody id="rows"></tbody></table>
<p role="status" id="said"></p>
<script>
const rows = document.getElementById('rows'), said = document.getElementById('said')
const set = async (udid, change, words) => {
  await fetch('/devices/' + udid, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(change) })
  said.textContent = words; draw()
}
const element = (tag, text) => { const one = document.createElement(tag); one.textContent = text ?? ''; return one }
const tick = (device, key, words) => {
  const label = element('label'), box = element('input')
  box.type = 'checkbox'; box.checked = device[key]
  box.onchange = () => set(device.udid, { [key]: box.checked }, device.name + ': ' + words + (box.checked ? ' on' : ' off'))
  label.append(box, ' ' + words); return label
}
const choice = (device, key, options) => {
  const label = element('label', key + ' '), box = element('select')
  for (const [value, words] of options) { const one = element('option', words); one.value = value; one.selected = String(device[key]) === value; box.append(one) }
  box.onchange = () => set(device.udid, { [key]: key === 'cableSpeed' ? Number(box.value) : box.value }, device.name + ': ' + key + ' ' + box.value)
  label.append(box); return label
}
async function draw() {
  const devices = await (await fetch('/devices')).json()
  rows.replaceChildren(...devices.map((device) => {
    const row = element('tr'), what = element('td', device.name), state = element('td'), switches = element('td')
    what.append(element('br'), element('small', device.productType + ', system ' + device.osVersion))
    state.append(device.plugged ? device.mode : 'unplugged', element('br'), element('small', Math.round(device.sentBytes / 1e5) / 10 + ' MB sent'))
    const fill = element('button', 'Fill with new data')
    fill.onclick = () => set(device.udid, { fill: true }, device.name + ': new data was written')
    switches.append(tick(device, 'plugged', 'plugged in'), tick(device, 'locked', 'locked'), tick(device, 'flightMode', 'flight mode'), tick(device, 'theftLock', 'theft lock'),
      element('br'), choice(device, 'trust', [['asking', 'asks'], ['yes', 'trusts'], ['no', 'refuses']]), choice(device, 'mode', [['normal', 'runs'], ['stuck', 'stuck at start-up'], ['recovery', 'recovery']]),
      choice(device, 'cableSpeed', [['0', 'full speed'], ['5000000', '5 MB/s'], ['300000', '300 kB/s']]), fill)
    row.append(what, state, switches); return row
  }))
}
draw(); setInterval(() => { if (!document.querySelector('select:focus')) draw() }, 3000)
</script></html>`
