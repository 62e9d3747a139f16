// The light or dark set before anything is drawn: what the person chose (a cookie), else what the device prefers, also when that changes.
(() => {
  const chosen = () => /(?:^|; )amber-theme=(light|dark)/.exec(document.cookie)?.[1];
  const device = matchMedia("(prefers-color-scheme: dark)");
  const apply = () => {
    document.documentElement.dataset.bsTheme = chosen() ?? (device.matches ? "dark" : "light");
  };
  apply();
  device.addEventListener("change", apply);
})();
