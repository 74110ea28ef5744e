// The layout of papers and keys. Content is written by the printers; this file holds only the look.

// Greek, Cyrillic and Vietnamese are set in Noto Serif, signs of maths in a text in the font for maths.
#let schola = ("TeX Gyre Schola", "Noto Serif", "TeX Gyre Schola Math")

#let setup(title, body) = {
  set document(title: title)
  set page(paper: "a4", margin: (top: 18mm, bottom: 20mm, x: 20mm))
  set text(font: schola, size: 11pt, lang: "en", region: "GB", fallback: true)
  show math.equation: set text(font: "TeX Gyre Schola Math")
  set par(leading: 0.62em, spacing: 0.85em)
  set list(indent: 0.6em)
  body
}

// How wide the code of a page is.
#let page-code = 13mm

// "title · form · 2 of 3", counted within one form between the marks at its two ends. What it says is read from
// the mark and is no part of the style of the page: all that forms have in common is laid out once.
#let foot = context {
  let begins = query(selector(<form-begins>).before(here())).last()
  let ends = query(selector(<form-ends>).after(begins.location())).first()
  let before = begins.location().page() - 1
  let (title, code, holder, codes) = begins.value
  let page = here().page() - before
  set text(size: 9pt)
  let told = [#title #h(1fr) #code #if holder != none [· #holder] #h(1fr) #page of #(ends.location().page() - before)]
  if codes.len() == 0 { told } else {
    // what reads a page looks for its code in this corner
    grid(columns: (1fr, page-code), column-gutter: 6mm, align: (left + top, right + top), told,
      if page <= codes.len() { v(-5mm); image(bytes(codes.at(page - 1)), format: "svg", width: page-code) })
  }
}
#let form-begins(title, code, holder: none, codes: ()) = [#metadata((title, code, holder, codes)) <form-begins>]
#let form-ends = [#metadata(none) <form-ends>]

// A line to write on, or what is written there already.
#let blank-line(label, written) = grid(columns: (auto, 1fr), column-gutter: 4pt, align: bottom, label,
  if written == none { line(length: 100%, stroke: 0.5pt) } else {
    block(width: 100%, stroke: (bottom: 0.5pt), outset: (bottom: 1.5pt), strong(written))
  })

// The department above the title; the distance holds for letters with marks above them as well.
#let heads(title, department) = {
  block(below: 3.4mm, text(size: 9pt, department))
  heading(level: 1, outlined: false, text(size: 17pt, weight: "bold", title))
}

#let paper(
  title: none, department: none, code: none, marks: "0", instructions: none,
  codes: (), name: none, class: none, seat: none, body,
) = {
  set page(footer: foot)
  form-begins(title, code, holder: name, codes: codes)
  grid(
    columns: (1fr, auto), column-gutter: 8mm,
    heads(title, department),
    box(stroke: 0.7pt, inset: (x: 3mm, y: 2.2mm))[
      #set align(center)
      #text(size: 8pt)[form] \
      #text(size: 15pt, weight: "bold", tracking: 0.08em, code)
      #if seat != none { linebreak(); text(size: 8pt, seat) }
    ],
  )
  v(3mm, weak: true)
  grid(
    columns: (1.7fr, 1fr, 0.8fr), column-gutter: 6mm,
    blank-line([Name], name), blank-line([Date], none), blank-line([Class], class),
  )
  v(3mm, weak: true)
  line(length: 100%, stroke: 0.7pt)
  v(2mm, weak: true)
  grid(
    columns: (1fr, auto), column-gutter: 8mm,
    text(size: 10pt, instructions),
    [#box(width: 14mm, line(length: 100%, stroke: 0.5pt)) of #marks marks],
  )
  v(5mm, weak: true)
  body
  form-ends
  pagebreak(weak: true)
}

// What is printed with a paper and is none of its questions.
#let insert(title: none, department: none, body) = {
  set page(footer: foot)
  form-begins(title, [Insert])
  heads(title, department)
  v(4mm, weak: true)
  body
  form-ends
  pagebreak(weak: true)
}

// What stands above the questions of a section.
#let section(title, text-of-it, tools, turned: false) = {
  if turned { pagebreak(weak: true) }
  block(above: 7mm, below: 5mm, breakable: false, sticky: true, width: 100%, {
    if title != none or tools != none {
      grid(columns: (1fr, auto), column-gutter: 6mm, align: bottom,
        if title != none { heading(level: 2, outlined: false, text(size: 13pt, weight: "bold", title)) },
        text(size: 9.5pt, tools))
    }
    if text-of-it != none { block(above: 2.4mm, text(size: 10pt, text-of-it)) }
  })
}

// A question whose marks are beyond those of the test.
#let beyond = block(below: 2mm, text(size: 9.5pt)[Bonus: these marks are beyond those of the test])

#let hanging(width, label, body, breakable: true, above: auto, below: auto) = block(
  width: 100%, inset: (left: width), breakable: breakable, above: above, below: below,
  { place(dx: -width, label); body },
)

// A question stays on one page wherever it fits on one. Whether it does is known for short ones;
// a long one is measured.
#let question(number, body) = hanging(8mm, strong[#number], body, breakable: false, below: 7mm)
#let long-question(number, body) = layout(size => {
  let height = measure(block(width: size.width - 8mm, body)).height
  hanging(8mm, strong[#number], body, breakable: height > 235mm, below: 7mm)
})

// What is chosen: a box to tick before each option, the two sides of pairs, lettered items, a scale.
#let tick-box = box(width: 3.3mm, height: 3.3mm, stroke: 0.6pt, baseline: 0.35mm)
#let options(..items) = block(above: 3mm, below: 1mm, grid(
  columns: (auto, auto, 1fr), column-gutter: 2.6mm, row-gutter: 2.8mm,
  ..items.pos().map(item => (tick-box, strong(item.at(0)), item.at(1))).flatten(),
))
// The same in as many columns as their widest has room in, where more than one has.
#let options-across(..items) = block(above: 3mm, below: 1mm, width: 100%, layout(size => {
  let cells = items.pos().map(item => {
    let pieces = if item.at(0) == [] { (tick-box, item.at(1)) } else { (tick-box, strong(item.at(0)), item.at(1)) }
    grid(columns: pieces.len(), column-gutter: 2.6mm, ..pieces)
  })
  let widest = calc.max(0mm, ..cells.map(cell => measure(cell).width.to-absolute()))
  let fitting = range(cells.len(), 1, step: -1).filter(many => many * (widest + 6mm) <= size.width)
  if fitting.len() == 0 { options(..items) } else {
    // three over one looks like a mistake; two over two does not
    let rows = calc.ceil(cells.len() / fitting.at(0))
    let many = calc.ceil(cells.len() / rows)
    grid(columns: (1fr,) * many, column-gutter: 3mm, row-gutter: 2.8mm, ..cells)
  }
}))
#let items(..items) = block(above: 3mm, below: 1mm, grid(
  columns: (auto, 1fr), column-gutter: 2.6mm, row-gutter: 2.8mm,
  ..items.pos().map(item => (strong(item.at(0)), item.at(1))).flatten(),
))
#let pairs(lefts, rights) = block(above: 3mm, below: 1mm, grid(
  columns: (auto, 1fr, auto, 1fr), column-gutter: 2.6mm, row-gutter: 3.4mm,
  ..range(calc.max(lefts.len(), rights.len())).map(k => {
    let left = if k < lefts.len() {
      (strong(lefts.at(k).at(0)), [#lefts.at(k).at(1) #h(1fr) #box(width: 9mm, line(length: 100%, stroke: 0.5pt))])
    } else { ([], []) }
    let right = if k < rights.len() { (strong(rights.at(k).at(0)), rights.at(k).at(1)) } else { ([], []) }
    left + right
  }).flatten(),
))
#let scale(steps, low, high) = block(above: 3mm, below: 1mm)[#low #h(3mm) #range(steps).map(k => tick-box).join(h(5mm)) #h(3mm) #high]
#let ruled(count) = block(above: 7mm, below: 1mm, width: 100%, stack(spacing: 8mm, ..range(count).map(k => line(length: 100%, stroke: 0.4pt))))

#let blank = box(width: 26mm, line(length: 100%, stroke: 0.5pt))
// A figure of a question, its words beside it for those who cannot see it.
#let picture(source, alt) = block(above: 3mm, below: 3mm, image(bytes(source), format: "svg", alt: alt, width: auto))

// A numbered gap in a text: a line to write on, or what is to be chosen from.
#let gap(number, options) = {
  let mark = text(size: 7pt, baseline: -0.4em, str(number))
  if options.len() == 0 { box(width: 26mm)[#mark#h(1pt)#box(width: 1fr, line(length: 100%, stroke: 0.5pt))] } else {
    box(stroke: (bottom: 0.5pt), outset: (bottom: 2.5pt))[#mark#h(1pt)#options.map(option => [#strong(option.at(0)) #emph(option.at(1))]).join(h(0.6em))]
  }
}
#let marks-label(marks) = text(size: 9.5pt)[#marks #if marks == "1" [mark] else [marks]]
#let answer-line = box(width: 52mm, line(length: 100%, stroke: (thickness: 0.6pt, dash: "dotted")))

// A part: its text, its marks, room for working and a line for the answer.
#let part(label: none, under: false, marks: "1", room: 20mm, after: none, answer: true, body) = {
  let rest = {
    body
    if answer {
      v(room)
      par[#h(1fr)#text(size: 9.5pt)[Answer]#h(2mm)#answer-line#h(1.5mm)#after#box(width: 19mm, align(right, marks-label(marks)))]
    } else if marks != "0" {
      v(room)
      par[#h(1fr)#marks-label(marks)]
    }
  }
  if label == none { block(width: 100%, above: 4mm, breakable: false, rest) } else {
    pad(left: if under { 7mm } else { 0mm }, hanging(7mm, label, rest, breakable: false, above: 4mm))
  }
}

// What a marker looks for in an answer at length.
#let rubric(label, ..criteria) = block(breakable: false, above: 3mm, hanging(19mm, strong(label), table(
  columns: (auto, 1fr), stroke: (x, y) => (bottom: 0.3pt), inset: (x: 1.5mm, y: 1.2mm),
  ..criteria.pos().map(criterion => (
    strong(criterion.at(0)),
    criterion.at(1).map(level => [#strong(level.at(0)) #level.at(1)]).join(h(1.2em)),
  )).flatten(),
)))

#let key-title(title, subtitle) = {
  heading(level: 1, outlined: false, text(size: 17pt, title))
  text(size: 10pt, subtitle)
  v(5mm, weak: true)
}

// The key of one form: pages of its own, counted within it.
#let key-form(title: none, code: none, before: none, body) = {
  set page(footer: foot)
  form-begins(title, [Form #code])
  before
  // of the first level, as a paper's: some forms are typeset by themselves
  block(below: 4mm, heading(level: 1, outlined: false, text(size: 13pt)[Form #code]))
  body
  form-ends
  pagebreak(weak: true)
}

#let key-table(..cells) = {
  set text(size: 10pt)
  table(
    columns: (auto, 1fr, 1.1fr, auto), stroke: none, inset: (x: 2mm, y: 1.7mm), align: (left, left, left, right),
    table.hline(stroke: 0.7pt),
    table.header(strong[Question], strong[Answer], strong[Accepted], strong[Marks]),
    table.hline(stroke: 0.5pt),
    ..cells,
    table.hline(stroke: 0.7pt),
  )
}

#let solution(number, body) = hanging(15mm, strong(number), body, below: 4mm)
