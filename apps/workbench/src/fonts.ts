import address from './styles/owners-scripts.css?url'

// The list of all their letters is long: the page is painted before it comes. By its address, since what a script imports
// would stand among the styles that a page waits for.
const styles = document.createElement('link')
styles.rel = 'stylesheet'
styles.href = address
document.head.append(styles)
