// Runs before the page is painted, so that a dark page never flashes light. What storage gives back is not trusted.
const saved = localStorage.getItem('theme')
const dark = saved === 'dark' || (saved !== 'light' && matchMedia('(prefers-color-scheme: dark)').matches)
document.documentElement.dataset.theme = dark ? 'dark' : 'light'
document.documentElement.dataset.discreet = localStorage.getItem('discreet') === 'on' ? 'on' : 'off'
