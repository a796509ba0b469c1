import fs from 'node:fs';
const f=fs.readdirSync('/tmp/wb/prof').map(n=>'/tmp/wb/prof/'+n)[0];const p=JSON.parse(fs.readFileSync(f));
const byId=new Map(p.nodes.map(n=>[n.id,n])); const self=new Map(), total=new Map();
for(const n of p.nodes) for(const c of n.children||[]) byId.get(c).parent=n;
p.samples.forEach((s,i)=>{let n=byId.get(s);const d=p.timeDeltas[i];const k=n=>n.callFrame.functionName+' '+n.callFrame.url.split('/').pop()+':'+n.callFrame.lineNumber;self.set(k(n),(self.get(k(n))||0)+d);const seen=new Set();for(let m=n;m;m=m.parent){const kk=k(m);if(seen.has(kk))continue;seen.add(kk);total.set(kk,(total.get(kk)||0)+d);}});
const tot=p.timeDeltas.reduce((a,b)=>a+b,0);
console.log('SELF');[...self].sort((a,b)=>b[1]-a[1]).slice(0,30).forEach(([k,v])=>console.log((v/tot*100).toFixed(1)+'%',(v/1000).toFixed(0)+'ms',k));
console.log('TOTAL');[...total].sort((a,b)=>b[1]-a[1]).slice(0,55).forEach(([k,v])=>console.log((v/tot*100).toFixed(1)+'%',(v/1000).toFixed(0)+'ms',k));
