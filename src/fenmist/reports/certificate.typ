// The certificate's page. Content comes as JSON, the chart as SVG; nothing is worked out here.
#let c = json(bytes(sys.inputs.content))
#let ink = rgb("#1B2A30")
#let second = rgb("#50626B")
#let hairline = rgb("#C9D3D7")
#let teal = rgb("#0E5A66")
#let stop = rgb("#8A1538")

#set document(title: c.title, author: "Fenmist", keywords: ("RF", "wattmeter", "calibration"))
#set page(
  paper: sys.inputs.paper,
  margin: (x: 20mm, top: 20mm, bottom: 20mm),
  header: [
    #set text(8pt, fill: second)
    #grid(columns: (1fr, auto), [#c.title · #if c.number == "" [draft, not issued] else [No. #c.number] · record #c.record], if c.demo [#text(fill: stop, weight: 600)[DEMO: invented readings]])
    #v(-6pt) #line(length: 100%, stroke: 0.5pt + hairline)
  ],
  footer: context [
    #set text(8pt, fill: second)
    #grid(columns: (1fr, auto), [Fenmist · #c.date], [page #counter(page).display() of #counter(page).final().first()])
  ],
)
#set text(font: json(bytes(sys.inputs.fonts)), size: 9pt, fill: ink, lang: "en", number-width: "tabular")
#set par(leading: 0.55em)
#show heading: it => block(above: 12pt, below: 6pt, text(10pt, weight: 600, it.body))

#if c.supersedes != "" [#text(9pt, fill: stop, weight: 600)[#c.supersedes] #v(2pt)]
#text(15pt, weight: 500)[#c.headline]
#v(4pt)

#grid(
  columns: (26mm, 1fr), row-gutter: 4.5pt,
  ..c.facts.map(((name, value)) => (text(fill: second)[#name], [#value])).flatten()
)

#image(bytes(c.hookup_svg), format: "svg", width: 100%, alt: c.hookup_alt)

#let results(rows) = [
  #set text(7.2pt)
  #table(
    columns: (auto,) * c.columns.len(), stroke: none, inset: (x: 4.2pt, y: 3pt),
    align: (col, row) => if col == c.columns.len() - 1 { left } else { right },
    table.hline(stroke: 0.5pt + ink),
    table.header(..c.columns.map(name => text(fill: second)[#name])),
    table.hline(stroke: 0.5pt + hairline),
    ..rows.flatten().map(cell => [#cell]),
    table.hline(stroke: 0.5pt + ink),
  )
]

= #if c.rows_found.len() > 0 [Results as left] else [Results]
#if c.rows.len() == 0 [No point has been read.] else { results(c.rows) }
#c.verdict

#if c.rows_found.len() > 0 [
  = Results as found, before the adjustment
  #results(c.rows_found)
]

#if c.rows.len() > 0 [
  = #c.chart_title
  #image(bytes(sys.inputs.chart), format: "svg", width: 100%, alt: c.chart_alt)
  #text(8pt, fill: second)[#c.chart_alt]
]

#if c.picture != "" [
  = #c.picture_title
  #image(bytes(c.picture), format: "svg", width: 100%, alt: c.picture_alt)
  #text(8pt, fill: second)[#c.picture_alt]
]

#if c.budget.len() > 0 [
  = #c.budget_title
  #set text(8pt)
  #table(
    columns: (1fr, 1fr, auto, auto), stroke: none, inset: (x: 3pt, y: 2.4pt), align: (left, left, right, right),
    table.header(..("influence", "from", "contribution", "share").map(name => text(fill: second)[#name])),
    table.hline(stroke: 0.5pt + hairline),
    ..c.budget.flatten().map(cell => [#cell]),
  )
]

= Reference equipment
#grid(
  columns: (40mm, 25mm, 1fr), row-gutter: 4pt,
  ..c.references.flatten().map(cell => [#cell])
)
#if c.others.len() > 0 [
  #v(2pt)
  #text(8pt, fill: second)[Also on the line]
  #set text(8pt)
  #grid(
    columns: (40mm, 25mm, 1fr), row-gutter: 3.5pt,
    ..c.others.flatten().map(cell => [#cell])
  )
]

#if c.notes.len() > 0 [
  = Notes
  #for (severity, what, why, answer) in c.notes [
    #block(breakable: false, below: 6pt)[
      #grid(columns: (26mm, 1fr),
        text(fill: if severity == "stop" { stop } else { second })[#severity],
        [#text(weight: 600)[#what] #why #if answer != "" [#linebreak() #text(fill: teal)[#answer]]],
      )
    ]
  ]
]

= Statements
#for statement in c.statements [#par[#statement]]
