import sharp from 'sharp'
import { cropSamples } from '../core/image/samples'
import { straighten } from '../core/sphere/straighten'
import { ViewMapping } from '../core/sphere/straightView'
import { openShot } from './film'
const s = openShot('LM_090','.data/test-demo')
const f = await s.read('plate', 1012)
const P={width:1024,height:512,channels:3,bitDepth:8} as const
await sharp(f.data,{raw:{width:1024,height:512,channels:3}}).png().toFile('/tmp/a.png')
const out:Buffer[]=[]
for (const v of [{headingDeg:0,pitchDeg:-90,angleDeg:100},{headingDeg:40,pitchDeg:-10,angleDeg:90}]) { const m=new ViewMapping(v,500); const r=await straighten(m,{col:0,row:0,width:500,height:500},P,async (q)=>cropSamples(f,q)); out.push(await sharp(r.data,{raw:{width:500,height:500,channels:3}}).png().toBuffer()) }
await sharp({create:{width:1024,height:1020,channels:3,background:'#000'}}).composite([{input:'/tmp/a.png',left:0,top:0},{input:out[0]!,left:0,top:516},{input:out[1]!,left:510,top:516}]).png().toFile('/tmp/look.png')
