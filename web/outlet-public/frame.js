/* Frames as high as what is in them; <div data-valtro="ADDRESS"> becomes one. */
(function (d) {
 var o = new URL(d.currentScript.src).origin + '/';
 function each(f) {
  d.querySelectorAll('iframe').forEach(function (i) { if (!i.src.indexOf(o)) f(i); });
 }
 addEventListener('message', function (e) {
  var m = e.data, h = e.origin + '/' === o && m && m.valtro === 'height' && +m.height;
  if (h) each(function (i) { if (i.contentWindow === e.source) i.style.height = Math.min(h + 4, 6000) + 'px'; });
 });
 function begin() {
  d.querySelectorAll('[data-valtro]').forEach(function (p) {
   var a = p.dataset.valtro, i = d.createElement('iframe');
   if (p.firstChild || a.indexOf(o)) return;
   i.src = a;
   i.title = p.dataset.title || '';
   i.allow = 'clipboard-write';
   i.style.cssText = 'display:block;width:100%;border:0;height:480px';
   p.append(i);
  });
  each(function (i) { i.contentWindow.postMessage({ valtro: 'tell' }, '*'); });
 }
 d.readyState === 'loading' ? addEventListener('DOMContentLoaded', begin) : begin();
})(document);
