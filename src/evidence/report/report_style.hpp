#pragma once
// Style sheet of the report.

namespace dotsift {

inline constexpr const char* report_style = R"css(
:root { color-scheme: light dark; --ground: #fbfaf7; --panel: #ffffff; --ink: #1f2429; --faint: #66707a; --line: #dfe3e6;
        --good: #00694f; --bad: #a84300; --open: #5b5f66; --focus: #0072b2; }
@media (prefers-color-scheme: dark) {
  :root { --ground: #15181c; --panel: #1d2227; --ink: #e6e8ea; --faint: #9aa4ad; --line: #343b42; --good: #55c7a3; --bad: #f0945a; --open: #b4bac1; --focus: #56b4e9; } }
* { box-sizing: border-box; }
body { margin: 0; background: var(--ground); color: var(--ink); font: 16px/1.5 Inter, Helvetica, Arial, sans-serif; }
main { max-width: 1220px; margin: 0 auto; padding: 32px 28px 80px; }
h1 { font-size: 30px; line-height: 1.2; margin: 0 0 6px; }
h2 { font-size: 21px; margin: 44px 0 12px; padding-top: 10px; border-top: 1px solid var(--line); }
h3 { font-size: 17px; margin: 24px 0 8px; }
p { margin: 6px 0; max-width: 78ch; }
.faint { color: var(--faint); }
.verdict { background: var(--panel); border: 1px solid var(--line); border-left: 8px solid var(--open); padding: 16px 22px; margin: 18px 0; font-size: 19px; }
.verdict.met { border-left-color: var(--good); } .verdict.missed { border-left-color: var(--bad); }
.verdict strong { display: block; }
.verdict ul { margin: 10px 0 0; padding-left: 20px; font-size: 16px; }
.scroll { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; background: var(--panel); font-variant-numeric: tabular-nums; font-size: 13px; }
caption { text-align: left; color: var(--faint); padding: 6px 0; }
th, td { padding: 5px 6px; border-bottom: 1px solid var(--line); text-align: right; white-space: nowrap; }
thead th { font-weight: 600; border-bottom: 2px solid var(--line); vertical-align: bottom; white-space: normal; overflow-wrap: break-word; }
thead th:not(:first-child) { max-width: 9.5em; }
tbody th { font-weight: inherit; }
th:first-child, td:first-child, th.words, td.words { text-align: left; }
td.words { white-space: normal; }
thead button { all: unset; cursor: pointer; }
thead button:hover { text-decoration: underline; }
:focus-visible, thead button:focus-visible { outline: 2px solid var(--focus); outline-offset: 2px; }
th[aria-sort=ascending] button::after { content: " \2191"; } th[aria-sort=descending] button::after { content: " \2193"; }
tr.chosen td { font-weight: 600; }
th .unit { color: var(--faint); font-weight: 400; }
td.met, span.met, .verdict.met strong { color: var(--good); } td.missed, span.missed, .verdict.missed strong { color: var(--bad); }
td .sub { color: var(--faint); font-size: 12.5px; display: block; }
td .sub.met { color: var(--good); } td .sub.missed { color: var(--bad); }
figure { margin: 12px 0; } figcaption { color: var(--faint); font-size: 14px; margin-top: 4px; }
nav { background: var(--panel); border: 1px solid var(--line); padding: 8px 22px; margin: 18px 0; font-size: 14px; }
nav ol { columns: 3 220px; margin: 4px 0; padding-left: 22px; } a { color: var(--focus); } .verdict a { color: inherit; text-decoration-style: dotted; }
h2, [id^=chart-] { scroll-margin-top: 12px; }
@media (prefers-color-scheme: dark) { img.chart { filter: invert(0.88) hue-rotate(180deg); } }
@media (max-width: 600px) { main { padding: 18px 12px 60px; } h1 { font-size: 24px; } .verdict { padding: 12px 14px; font-size: 17px; } dl { grid-template-columns: 1fr; } dd { margin-bottom: 6px; } }
figure img { width: 100%; height: auto; display: block; background: #fff; border: 1px solid var(--line); border-radius: 4px; }
button.zoom { all: unset; display: block; width: 100%; cursor: zoom-in; }
button.zoom:focus-visible { outline: 2px solid var(--focus); outline-offset: 2px; }
dialog { border: 1px solid var(--line); border-radius: 6px; background: var(--panel); color: var(--ink); padding: 12px; width: min(96vw, 1500px); max-width: none; max-height: 96vh; cursor: zoom-out; }
dialog::backdrop { background: rgb(0 0 0 / 0.6); }
dialog img { display: block; width: 100%; max-height: 82vh; object-fit: contain; background: #fff; margin-top: 8px; }
dialog button { font: inherit; padding: 3px 14px; }
.warning { border-left: 4px solid var(--bad); padding: 2px 12px; margin: 10px 0; max-width: 100ch; }
.pair { display: grid; grid-template-columns: repeat(auto-fit, minmax(min(430px, 100%), 1fr)); gap: 18px; }
.pair figure:only-child { max-width: 640px; }
.three { display: grid; grid-template-columns: repeat(auto-fit, minmax(min(330px, 100%), 1fr)); gap: 14px; }
dl { display: grid; grid-template-columns: max-content 1fr; gap: 2px 18px; margin: 6px 0; } dt { color: var(--faint); } dd { margin: 0; overflow-wrap: anywhere; }
details { margin: 10px 0; } summary { cursor: pointer; font-weight: 600; padding: 4px 0; }
pre { background: var(--panel); border: 1px solid var(--line); padding: 14px 16px; overflow-x: auto; font: 13.5px/1.45 ui-monospace, Menlo, Consolas, monospace; }
@media print { nav, img.chart { filter: none; } nav { display: none; } @page { size: A4; margin: 14mm; }
  :root { color-scheme: light; --ground: #fff; --panel: #fff; --ink: #1f2429; --faint: #66707a; --line: #dfe3e6; --good: #00694f; --bad: #a84300; --open: #5b5f66; }
  body { background: #fff; font-size: 10.5pt; } main { max-width: none; padding: 0; } dialog { display: none; }
  table { font-size: 7pt; } td .sub { font-size: 6.5pt; } th, td { padding: 3px; } h1 { font-size: 20pt; } h2 { font-size: 14pt; margin-top: 22px; break-after: avoid; } h3, caption { break-after: avoid; }
  .scroll { overflow: visible; } .pair, .three { grid-template-columns: 1fr 1fr; gap: 8px; } pre { white-space: pre-wrap; font-size: 8pt; }
  figure, tr, .verdict, .warning { break-inside: avoid; } }
)css";

}  // namespace dotsift
