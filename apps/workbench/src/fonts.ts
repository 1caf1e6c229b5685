// The list of all their letters is long: the page is painted before it comes.
void import('./styles/owners-scripts.css')
