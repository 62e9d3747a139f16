/** Opens a folder where the browser may: addresses on the web; a path of a disk is for the person's own file manager, so it is a link of that kind. */
export function OpenFolder({ location }: { location: string }) {
  const href = /^https?:/.test(location) ? location : `file://${location.split("/").map(encodeURIComponent).join("/")}`;
  return (
    <a className="btn btn-plain btn-sm" href={href} target="_blank" rel="noreferrer">
      Open folder
    </a>
  );
}
