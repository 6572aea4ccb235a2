// Correction cards at true size, with cutting lines and a ruler that proves the scale.
#let cards = json(bytes(sys.inputs.cards))
#let ink = rgb("#1B2A30")
#let second = rgb("#50626B")
#let hairline = rgb("#C9D3D7")
#let stop = rgb("#8A1538")

#set document(title: cards.first().title, author: "Fenmist")
#set page(paper: sys.inputs.paper, margin: 18mm)
#set text(font: json(bytes(sys.inputs.fonts)), size: 8pt, fill: ink, lang: "en", number-width: "tabular")

#let ruler = box(width: 50mm, height: 4mm)[
  #place(line(start: (0mm, 3mm), end: (50mm, 3mm), stroke: 0.5pt + ink))
  #for n in range(11) { place(line(start: (n * 5mm, if calc.rem(n, 2) == 0 { 1mm } else { 2mm }), end: (n * 5mm, 3mm), stroke: 0.5pt + ink)) }
]

#for c in cards [#block(breakable: false)[
  #text(8pt, fill: second)[cut along the line; if the ruler isn't 50 mm long, print without scaling]
  #v(1mm)
  #box(width: c.width_mm * 1mm, height: c.height_mm * 1mm, stroke: (paint: second, thickness: 0.4pt, dash: "dashed"), inset: 3mm, clip: true)[
    #set text(if c.size == "lid" { 6.4pt } else { 9pt })
    #set par(leading: 0.4em)
    #text(1.25em, weight: 600)[#c.title]
    #if c.demo [#text(fill: stop, weight: 600)[ DEMO]]
    #linebreak()
    #text(fill: second)[#c.under]
    #v(-0.4em)
    #if c.curve != "" [#image(bytes(c.curve), format: "svg", width: 100%)] else [#table(
      columns: (auto,) + (1fr,) * (c.columns.len() - 1), stroke: none, inset: (x: 1mm, y: if c.size == "lid" { 0.45mm } else { 0.9mm }),
      align: right,
      table.header(..c.columns.map(name => text(fill: second)[#name])),
      table.hline(stroke: 0.5pt + ink),
      ..c.rows.flatten().map(cell => [#cell]),
    )]
    #v(1fr)
    #text(0.9em, fill: second)[#c.foot]
    #if c.left_out != "" [#linebreak() #text(0.9em, fill: second)[#c.left_out]]
    #v(-0.2em)
    #ruler
  ]
  #v(8mm)
]]
