/** The stand-in scanner's control page: the pile, what to scan and how, and what was sent. */
export const controlPage = `<!doctype html>
<html lang="en-GB"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Stand-in scanner</title>
<style>
body{font:15px/1.5 system-ui,sans-serif;margin:0;background:#f4f1ea;color:#1c2330}
main{max-width:1040px;margin:0 auto;padding:24px}
h1{font-size:20px;margin:0 0 4px}p{margin:0 0 16px;color:#485063}
.pile{display:flex;flex-wrap:wrap;gap:14px;margin-bottom:20px}
.sheet{width:120px;background:none;border:2px solid transparent;border-radius:8px;padding:6px;font:inherit;font-size:12px;text-align:center;cursor:pointer;position:relative}
.sheet img{width:100%;min-height:140px;background:#fff;box-shadow:0 1px 4px #0004;display:block;margin-bottom:4px}
.sheet[aria-pressed=true]{border-color:#0b5d66;background:#fff}
.nth{position:absolute;top:0;right:0;background:#0b5d66;color:#fff;border-radius:99px;min-width:22px;line-height:22px}
form{display:flex;flex-wrap:wrap;gap:16px;align-items:end;background:#fff;border:1px solid #ddd6c8;border-radius:10px;padding:16px}
label{display:grid;gap:2px;font-size:12px}select,button{font:inherit;padding:6px 10px}
button.go{background:#0b5d66;color:#fff;border:0;border-radius:8px;padding:8px 18px;margin-left:auto}
ol{padding-left:20px}
</style></head><body><main>
<h1>Stand-in scanner</h1><p>Select sheets in order, then scan. They are sent to Amber Clip as one batch.</p>
<div class="pile" id="pile"></div>
<form id="form">
<label>Sides<select id="sides"><option value="one">one</option><option value="both">both</option></select></label>
<label>Resolution (dpi)<select id="dpi"><option>200</option><option>300</option></select></label>
<label>As<select id="format"><option value="pdf">PDF</option><option value="tiff">TIFF</option></select></label>
<label>Destination<select id="to"><option value="http">Amber Clip</option><option value="folder">the watched folder</option></select></label>
<label>Queue<select id="queue"><option>quay-office</option><option>sales-desk</option><option>payables</option><option>crew-office</option><option>general</option></select></label>
<label>Add a PDF<input type="file" id="document" accept="application/pdf"></label>
<button class="go">Scan</button></form>
<h2 style="font-size:16px">Sent</h2><ol id="sent" aria-live="polite"></ol>
</main><script>
const chosen=[];const el=(id)=>document.getElementById(id);
function mark(){for(const b of document.querySelectorAll(".sheet")){const n=chosen.indexOf(b.dataset.sheet);b.setAttribute("aria-pressed",String(n>=0));b.querySelector(".nth").textContent=n>=0?n+1:"";b.querySelector(".nth").hidden=n<0}}
async function load(){const {papers}=await (await fetch("/pile")).json();const box=el("pile");box.textContent="";
for(const p of papers)for(const s of p.sheets){const b=document.createElement("button");b.type="button";b.className="sheet";b.dataset.sheet=s;
const i=document.createElement("img");i.src="/picture?sheet="+encodeURIComponent(s);i.alt="";const n=document.createElement("span");n.className="nth";n.hidden=true;
b.append(i,n,document.createTextNode(s.replace(".pdf#"," · ")));b.onclick=()=>{const at=chosen.indexOf(s);if(at>=0)chosen.splice(at,1);else chosen.push(s);mark()};box.append(b)}mark()}
el("document").onchange=async(e)=>{const f=e.target.files[0];if(!f)return;await fetch("/pile?name="+encodeURIComponent(f.name),{method:"POST",body:f});e.target.value="";load()};
el("form").onsubmit=async(e)=>{e.preventDefault();if(!chosen.length)return;const line=document.createElement("li");line.textContent="scanning …";el("sent").prepend(line);
const r=await fetch("/scan",{method:"POST",body:JSON.stringify({sheets:chosen,bothSides:el("sides").value==="both",dpi:Number(el("dpi").value),format:el("format").value,to:el("to").value,queue:el("queue").value})});
const a=await r.json();line.textContent=r.ok?a.fileName+", "+a.pages+" pages sent":"not sent: "+a.error;if(r.ok){chosen.length=0;mark()}};
load();
</script></body></html>`;
