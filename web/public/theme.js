// Before anything is drawn, so that a dim lab is not flashed with paper.
document.documentElement.dataset.theme = localStorage.getItem('rulvek.theme') === 'dark' ? 'dark' : 'light'
