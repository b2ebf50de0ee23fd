#pragma once
// Style sheet of the report.

namespace dotsift {

inline constexpr const char* report_style = R"css(
:root { color-scheme: light dark; --ground: #fbfaf7; --panel: #ffffff; --ink: #1f2429; --faint: #66707a; --line: #dfe3e6;
        --good: #00694f; --bad: #a84300; --open: #5b5f66; }
@media (prefers-color-scheme: dark) {
  :root { --ground: #15181c; --panel: #1d2227; --ink: #e6e8ea; --faint: #9aa4ad; --line: #343b42; --good: #55c7a3; --bad: #f0945a; --open: #b4bac1; } }
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
table { border-collapse: collapse; width: 100%; background: var(--panel); font-variant-numeric: tabular-nums; font-size: 13.5px; }
caption { text-align: left; color: var(--faint); padding: 6px 0; }
th, td { padding: 6px 8px; border-bottom: 1px solid var(--line); text-align: right; white-space: nowrap; }
th { font-weight: 600; border-bottom: 2px solid var(--line); }
th:first-child, td:first-child { text-align: left; }
tr.chosen td { font-weight: 600; }
td.met, span.met, .verdict.met strong { color: var(--good); } td.missed, span.missed, .verdict.missed strong { color: var(--bad); }
td .sub { color: var(--faint); font-size: 12.5px; display: block; }
td .sub.met { color: var(--good); } td .sub.missed { color: var(--bad); }
figure { margin: 12px 0; } figcaption { color: var(--faint); font-size: 14px; margin-top: 4px; }
figure img { width: 100%; height: auto; display: block; background: #fff; border: 1px solid var(--line); border-radius: 4px; }
.pair { display: grid; grid-template-columns: repeat(auto-fit, minmax(430px, 1fr)); gap: 18px; }
.pair figure:only-child { max-width: 640px; }
.three { display: grid; grid-template-columns: repeat(auto-fit, minmax(330px, 1fr)); gap: 14px; }
details { margin: 10px 0; } summary { cursor: pointer; font-weight: 600; padding: 4px 0; }
pre { background: var(--panel); border: 1px solid var(--line); padding: 14px 16px; overflow-x: auto; font: 13.5px/1.45 ui-monospace, Menlo, Consolas, monospace; }
@media print { :root { color-scheme: light; } body { background: #fff; font-size: 11pt; } main { max-width: none; padding: 0; }
  figure, tr, .verdict { break-inside: avoid; } details > * { display: block; } }
)css";

}  // namespace dotsift
