import * as Icons from "react-bootstrap-icons";

const named = {
  people: Icons.People,
  truck: Icons.Truck,
  "box-seam": Icons.BoxSeam,
  "calendar-range": Icons.CalendarRange,
  receipt: Icons.Receipt,
  "receipt-cutoff": Icons.ReceiptCutoff,
  "shield-exclamation": Icons.ShieldExclamation,
  shop: Icons.Shop,
  cart: Icons.Cart,
  inbox: Icons.Inbox,
  "file-earmark-text": Icons.FileEarmarkText,
  "cash-coin": Icons.CashCoin,
  person: Icons.Person,
  "life-preserver": Icons.LifePreserver,
  tools: Icons.Tools,
  "person-badge": Icons.PersonBadge,
  boxes: Icons.Boxes,
  bank: Icons.Bank,
  "check2-square": Icons.Check2Square,
  "journal-text": Icons.JournalText,
  journals: Icons.Journals,
  "envelope-paper": Icons.EnvelopePaper,
  "calendar-check": Icons.CalendarCheck,
  "list-check": Icons.ListCheck,
  "card-list": Icons.CardList,
  "thermometer-half": Icons.ThermometerHalf,
  "exclamation-diamond": Icons.ExclamationDiamond,
  globe: Icons.Globe,
  "file-earmark-ruled": Icons.FileEarmarkRuled,
  "file-earmark-check": Icons.FileEarmarkCheck,
  "cash-stack": Icons.CashStack,
  "chat-square-quote": Icons.ChatSquareQuote,
  "cart-check": Icons.CartCheck,
  "list-columns-reverse": Icons.ListColumnsReverse,
  "file-earmark-minus": Icons.FileEarmarkMinus,
  bell: Icons.Bell,
  "patch-check": Icons.PatchCheck,
  "heart-pulse": Icons.HeartPulse,
  "file-earmark-person": Icons.FileEarmarkPerson,
  "clipboard-data": Icons.ClipboardData,
  "clipboard-minus": Icons.ClipboardMinus,
  binoculars: Icons.Binoculars,
  camera: Icons.Camera,
  folder2: Icons.Folder2,
  rulers: Icons.Rulers,
  table: Icons.Table,
  envelope: Icons.Envelope,
  "envelope-at": Icons.EnvelopeAt,
  telephone: Icons.Telephone,
  "file-earmark": Icons.FileEarmark,
  folder: Icons.Folder2,
  "folder-open": Icons.Folder2Open,
  pdf: Icons.FileEarmarkPdf,
  image: Icons.FileEarmarkImage,
  spreadsheet: Icons.FileEarmarkSpreadsheet,
  word: Icons.FileEarmarkWord,
  code: Icons.FileEarmarkCode,
  lock: Icons.FileEarmarkLock,
  broken: Icons.FileEarmarkX,
  clip: Icons.Paperclip,
} as const;

/** An icon by its name in the types' definitions; a plain sheet when the name is not known. Hidden from screen readers: words stand beside it. */
export function Icon({ name, size = 16 }: { name: string; size?: number }) {
  const Found = Object.hasOwn(named, name) ? named[name as keyof typeof named] : Icons.FileEarmark;
  return <Found size={size} aria-hidden="true" />;
}

/** The icon of a kind of file. */
export function kindIcon(kind: string | null): string {
  switch (kind) {
    case "pdf":
      return "pdf";
    case "jpeg":
    case "png":
    case "tiff":
    case "webp":
    case "gif":
    case "heic":
    case "avif":
    case "bmp":
    case "tiffOther":
      return "image";
    case "mail":
    case "msg":
      return "envelope";
    case "docx":
    case "docm":
      return "word";
    case "xlsx":
    case "xlsm":
    case "csv":
      return "spreadsheet";
    case "xml":
      return "code";
    case "text":
      return "file-earmark-text";
    default:
      return "file-earmark";
  }
}
