// The layout of papers and keys. Content is written by the printers; this file holds only the look. It is told
// ``look``, what is chosen for a test, and ``w``, the words that the paper itself says.
#import "/look.typ": look, w

// Greek, Cyrillic and Vietnamese are set in Noto Serif. Upright text and maths have one font: to take letters out of a
// font and to write them into a paper costs time for each font. Bold and slanted text, which has other letters, leaves
// maths to the font for maths alone.
#let schola = ("Vorlage Schola", "Noto Serif", "Vorlage Schola Math")
#let faces = (school: schola, plain: ("Atkinson Hyperlegible Next", ..schola))
#let size = look.size
#let small = size * 0.864
#let scale-of = size / 11pt
// Marks stand in a column of their own beside what is asked.
#let margin-column = 16mm * scale-of
#let beside = margin-column + 3mm
#let maths-in(family) = if look.face == "plain" {
  // numbers, units and words are told apart as easily as in the text; the letters of maths have no other face
  ((name: "Atkinson Hyperlegible Next", covers: regex("[0-9A-Za-z]")), family)
} else { family }
#let beside-maths(body) = {
  show math.equation: set text(font: maths-in("Vorlage Schola Math"))
  body
}
#let bold-text(body) = beside-maths(strong(body))
#let slanted-text(body) = beside-maths(emph(body))
#let said(text, ..given) = given.pos().fold(text, (found, each) => found.replace("{}", str(each), count: 1))

#let setup(title, body) = {
  set document(title: title)
  set page(paper: look.paper, margin: (top: 18mm, bottom: 21mm, left: 20mm, right: 16mm))
  set text(
    font: faces.at(look.face), size: size, lang: look.language,
    region: if look.language == "en" { "GB" } else { "DE" }, fallback: true,
  )
  // signs in words and numbers of maths are those of maths
  show math.equation: set text(font: maths-in("Vorlage Schola"), stylistic-set: 20)
  show math.mat: math.display
  show math.vec: math.display
  set par(leading: 0.62em, spacing: 0.85em)
  set list(indent: 0.6em)
  // the structure and the bookmarks have "Question 3", the paper its number
  show <numbered>: it => text(size: size, strong(it.supplement))
  body
}

// Maths that stands alone, or in a worked solution, is as large as on a line of its own, and its line as high.
#let alone(maths) = if maths.func() == math.equation {
  box({
    show math.equation: set par(leading: 0pt)
    math.equation(block: false, alt: maths.alt, math.display(maths.body))
  })
} else { maths }

// A paragraph of several lines with maths. Maths may reach seven tenths of this leading into the space above and below its
// line: what is tall in two lines that follow each other does not meet.
#let lines-with-maths(body) = par({
  show math.equation: set par(leading: 0.36em)
  body
})

// What is raised in a text, as high and as large as in maths.
#let raised(text) = super(typographic: false, size: 0.7em, baseline: -0.346em, text)

// Maths on a line of its own. What is wider than its line is broken at relations and operators, and what cannot be broken
// so is set smaller.
#let display(maths) = if maths.func() != math.equation { maths } else {
  block(width: 100%, above: 3.6mm, below: 3.6mm, layout(size => {
    if measure(maths).width <= size.width { return maths }
    let broken = math.equation(block: false, alt: maths.alt, math.display(maths.body))
    let lone = measure(broken)
    // what cannot be broken stays one line, wider than its place
    if measure(width: size.width, broken).height > 1.3 * lone.height {
      align(center, par(leading: 1em, justify: false, broken))
    } else {
      let factor = size.width / lone.width * 100%
      scale(x: factor, y: factor, reflow: true, box(width: lone.width, broken))
    }
  }))
}

// A table of an author, its columns aligned as they are written; the rows are as high as the maths in them.
#let data-table(sides, ..cells) = block(above: 3mm, below: 3mm, breakable: false,
  table(columns: sides.len(), align: sides, stroke: 0.4pt, inset: (x: 2mm, y: 1.6mm), ..cells))

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
  let last = ends.location().page() - before
  let asked = query(selector(<asked-ends>).after(begins.location()).before(ends.location()))
  let until = if asked.len() > 0 { asked.first().location().page() - before } else { 0 }
  set text(size: 9pt)
  let told = {
    // here neither takes a page of its own
    let above(side, words) = place(side, dy: -5.4mm, text(size: 10pt, strong(words)))
    if until > page and calc.odd(page) { above(right, w.turn) } else if until == page { above(center, w.end) }
    // one line, which takes less time than a grid; of a long title its first line
    box(width: 1fr, height: 1.1em, clip: true, title)
    h(6mm)
    code
    if holder != none [ · #holder]
    h(6mm)
    said(w.page-of, page, last)
  }
  if codes.len() == 0 { told } else {
    // what reads a page looks for its code in this corner
    grid(columns: (1fr, page-code), column-gutter: 6mm, align: (left + top, right + top), told,
      if page <= codes.len() { v(-5mm); image(bytes(codes.at(page - 1)), format: "svg", width: page-code) })
  }
}
#let form-begins(title, code, holder: none, codes: ()) = [#metadata((title, code, holder, codes)) <form-begins>]
#let form-ends = [#metadata(none) <form-ends>]

// Above a page that begins within a question: which it is.
#let continued = context {
  let begun = query(selector(<question-begins>).before(here()))
  let ended = query(selector(<question-ends>).before(here()))
  if begun.len() > ended.len() { text(size: 9pt, style: "italic", said(w.continued, begun.last().value)) }
}

// A line to write on, or what is written there already.
#let blank-line(label, written) = {
  label
  h(4pt)
  if written == none { box(width: 1fr, line(length: 100%, stroke: 0.5pt)) } else {
    box(width: 1fr, stroke: (bottom: 0.5pt), outset: (bottom: 1.5pt), strong(written))
  }
}

// The department above the title; the distance holds for letters with marks above them as well.
#let heads(title, department) = {
  block(below: 3.4mm, text(size: 9pt * scale-of, department))
  heading(level: 1, outlined: false, text(size: 17pt * scale-of, weight: "bold", title))
}

#let code-box(code, seat, stroke: 0.7pt) = box(stroke: stroke, inset: (x: 3mm, y: 2.2mm))[
  #set align(center)
  #text(size: 8pt, w.form) \
  #text(size: 15pt, weight: "bold", tracking: 0.08em, code)
  #if seat != none { linebreak(); text(size: 8pt, seat) }
]

// The head of a paper, with the mark of the school where it has one.
#let head-of(title, department, code, seat, emblem) = {
  let mark = if emblem != none {
    image(bytes(emblem.at(0)), format: "svg", height: 16mm * scale-of, alt: said(w.mark-of, emblem.at(1)))
  }
  if look.header == "centred" {
    grid(columns: (32mm * scale-of, 1fr, 32mm * scale-of), align: (left + top, center + top, right + top),
      mark, heads(title, department), code-box(code, seat))
  } else if look.header == "band" {
    block(width: 100%, stroke: (top: 1.6pt, bottom: 0.6pt), inset: (y: 3mm), grid(
      columns: (auto, 1fr, auto), column-gutter: 5mm, align: (left + horizon, left + horizon, right + horizon),
      mark, heads(title, department), code-box(code, seat, stroke: none)))
  } else {
    grid(columns: (auto, 1fr, auto), column-gutter: if mark == none { (0mm, 8mm) } else { (5mm, 8mm) },
      mark, heads(title, department), code-box(code, seat))
  }
}

// How many marks there are for a question or a part.
#let marks-label(marks) = text(size: small)[#marks~#if marks == "1" { w.mark } else { w.marks }]

// A table in which whoever marks writes: the questions, what each is worth, and a field for what was given.
#let marker-table(rows, marks) = {
  let cells = (..rows, (w.total, marks))
  // so many columns have room beside each other
  let most = calc.floor((if look.paper == "a4" { 168mm } else { 174mm } - 28mm * scale-of) / (12.5mm * scale-of))
  block(breakable: false, {
    text(size: small, weight: "bold", w.marker)
    v(2mm, weak: true)
    for start in range(0, cells.len(), step: most) {
      let some = cells.slice(start, calc.min(start + most, cells.len()))
      block(above: 2mm, table(
        columns: (24mm * scale-of, ..some.map(each => if each.at(0) == w.total { 17mm } else { 12.5mm } * scale-of)), align: (left,) + (center,) * some.len(),
        stroke: 0.5pt, inset: (x: 1.5mm, y: 1.6mm),
        ..(w.question, ..some.map(each => each.at(0))).map(each => text(size: small, strong(each))),
        ..(w.most, ..some.map(each => each.at(1))).map(each => text(size: small, each)),
        text(size: small, w.given), ..some.map(each => v(6mm)),
      ))
    }
  })
}

// The first page, where a paper has one of its own: whose it is, what it asks and allows, and room for the marker.
#let cover(
  title: none, department: none, code: none, marks: "0", instructions: none,
  name: none, class: none, seat: none, emblem: none, facts: (), rows: (),
) = {
  head-of(title, department, code, seat, emblem)
  v(12mm)
  grid(columns: (1.6fr, 1fr), column-gutter: 8mm, row-gutter: 8mm,
    blank-line(w.name, name), blank-line(w.number, none),
    blank-line(w.class, class), blank-line(w.date, none),
  )
  v(10mm)
  grid(columns: (auto, 1fr), column-gutter: 6mm, row-gutter: 3.4mm,
    ..facts.map(each => (strong(each.at(0)), each.at(1))).flatten())
  if instructions != [] { v(6mm); block(width: 100%, instructions) }
  v(10mm)
  block(width: 100%, stroke: 0.9pt, inset: 4mm, align(center, strong(w.closed)))
  v(1fr)
  marker-table(rows, marks)
  pagebreak()
}

// A blank page where the pages up to a mark would not go on whole sheets.
#let to-even(mark) = context {
  // not the page of this place itself, which moves with what is decided here
  let begins = query(selector(<form-begins>).before(here())).last()
  let ends = query(selector(mark).before(here())).last()
  if calc.even(ends.location().page() - begins.location().page()) {
    pagebreak()
    v(1fr)
    align(center, text(size: small, w.blank))
    v(1fr)
  }
}

// A field to tick, and what is answered on a sheet of its own.
#let tick-box = box(width: 3.3mm, height: 3.3mm, stroke: 0.6pt, baseline: 0.35mm)
#let letter-boxes(letters) = letters.map(each => box({
  strong(each)
  h(1.2mm)
  box(width: 4.6mm, height: 4.6mm, stroke: 0.7pt, baseline: 0.9mm)
})).join(h(5mm))
#let line-boxes(labels) = labels.map(each => box({
  strong(each)
  h(1.2mm)
  box(width: 13mm, line(length: 100%, stroke: 0.5pt))
})).join(h(5mm))
// A field for each place of an order.
#let order-boxes(count) = range(count).map(k => box(width: 8mm * scale-of, height: 8mm * scale-of, stroke: 0.6pt,
  inset: 0.8mm, text(size: 6pt, str(k + 1)))).join(h(2mm))
#let scale-boxes(steps, low, high) = [#low #h(3mm) #range(steps).map(k => tick-box).join(h(5mm)) #h(3mm) #high]
#let dotted = line(length: 100%, stroke: (thickness: 0.6pt, dash: "dotted"))
#let answer-lines(before, after) = if before.len() == 0 {
  grid(columns: (58mm, auto), column-gutter: 1.5mm, align: bottom, dotted, after)
} else {
  grid(columns: (auto, 46mm, auto), column-gutter: 1.5mm, row-gutter: 4mm, align: bottom,
    ..before.map(each => (each, dotted, after)).flatten())
}
#let answer-sheet(title, department, code, seat, name, class, rows) = {
  grid(columns: (1fr, auto), column-gutter: 8mm, {
    block(below: 3.4mm, text(size: 9pt * scale-of, [#department · #title]))
    heading(level: 2, outlined: false, bookmarked: true, text(size: 15pt * scale-of, weight: "bold", w.sheet))
  }, code-box(code, seat))
  v(5mm, weak: true)
  grid(columns: (1.7fr, 1fr, 0.8fr), column-gutter: 6mm,
    blank-line(w.name, name), blank-line(w.date, none), blank-line(w.class, class))
  v(6mm, weak: true)
  let cells = rows.map(each => (strong(each.at(0)), each.at(1))).flatten()
  grid(columns: (auto, 1fr), align: (left + horizon, left + horizon),
    inset: (x, y) => (left: if x == 0 { 0mm } else { 5mm }, y: 1.9mm), stroke: (x, y) => (bottom: 0.25pt + luma(150)), ..cells)
}

#let paper(
  title: none, department: none, code: none, marks: "0", instructions: none,
  codes: (), name: none, class: none, seat: none, emblem: none, facts: (), rows: (), covered: false, long: false,
  sheet: none, body,
) = {
  set page(footer: foot, header: if long { continued } else { none })
  form-begins(title, code, holder: name, codes: codes)
  if covered {
    cover(title: title, department: department, code: code, marks: marks, instructions: instructions,
      name: name, class: class, seat: seat, emblem: emblem, facts: facts, rows: rows)
  } else {
    head-of(title, department, code, seat, emblem)
    v(6mm, weak: true)
    grid(
      columns: (1.7fr, 1fr, 0.8fr), column-gutter: 6mm,
      blank-line(w.name, name), blank-line(w.date, none), blank-line(w.class, class),
    )
    v(3mm, weak: true)
    line(length: 100%, stroke: 0.7pt)
    v(2.6mm, weak: true)
    grid(
      columns: (1fr, auto), column-gutter: 8mm,
      text(size: size * 0.91, instructions),
      [#box(width: 14mm, line(length: 100%, stroke: 0.5pt)) #said(w.of-marks, marks)],
    )
    v(6mm, weak: true)
  }
  body
  [#metadata(none) <asked-ends>]
  if look.even { to-even(<asked-ends>) }
  if sheet != none {
    pagebreak()
    answer-sheet(title, department, code, seat, name, class, sheet)
    [#metadata(none) <sheet-ends>]
    if look.even { to-even(<sheet-ends>) }
  }
  form-ends
  pagebreak(weak: true)
}

// What is printed with a paper and is none of its questions.
#let insert(title: none, department: none, body) = {
  set page(footer: foot)
  form-begins(title, w.insert)
  heads(title, department)
  v(4mm, weak: true)
  body
  form-ends
  pagebreak(weak: true)
}

// What stands above the questions of a section.
#let section(title, text-of-it, tools, turned: false) = {
  if turned { pagebreak(weak: true) }
  block(above: 8mm, below: 5mm, breakable: false, sticky: true, width: 100%, {
    if title != none or tools != none {
      grid(columns: (1fr, auto), column-gutter: 6mm, align: bottom,
        if title != none { heading(level: 2, outlined: false, bookmarked: true, text(size: 13pt * scale-of, weight: "bold", title)) },
        text(size: small, tools))
    }
    if text-of-it != none { block(above: 2.4mm, text(size: size * 0.91, text-of-it)) }
  })
}

// A question whose marks are beyond those of the test.
#let beyond = block(below: 2mm, text(size: small, w.bonus))

// How much lower the first line of a text lies than one of words alone. ``first`` sets its first paragraph, with something
// at its beginning: what is taller than any line makes it higher by all but what the line had.
#let lowered(first, width) = {
  let tallest = 500pt
  let height = begun => measure(width: width, first(begun)).height
  height(none) + tallest - height(box(width: 0pt, height: tallest)) - measure[1].height
}
// A label beside a text; it is told its first paragraph where something in that is tall.
#let hanging(width, label, body, first: none, breakable: true, above: auto, below: auto) = block(
  width: 100%, inset: (left: width), breakable: breakable, above: above, below: below,
  {
    place(dx: -width, if first == none { label } else { layout(area => pad(top: lowered(first, area.width), label)) })
    body
  },
)

// The marks of a question that has several parts, below them.
#let total-of(number, marks) = block(above: 4.5mm, width: 100%, align(right,
  text(size: small)[#said(w.total-of, number): *#marks-label(marks)*]))

// A question stays on one page wherever it fits on one. Whether it does is known for short ones;
// a long one is measured.
#let number-width = 8mm * scale-of
#let called(number, level) = [#heading(level: level, outlined: false, bookmarked: true,
  supplement: str(number), [#w.question #number]) <numbered>]
// Where a question begins and ends on its page, for whoever gives what is left of the page to working.
#let spot(what) = if look.fill {
  let noted = context [#metadata((what, here().page(), here().position().y / 1mm)) <spot>]
  // what comes first takes no part in the distances
  if what == "begins" { place(noted) } else { block(above: 0pt, below: 0pt, height: 0pt, noted) }
}
#let question(number, level: 2, first: none, body) = hanging(number-width, called(number, level), first: first,
  { spot("begins"); body; spot("ends") }, breakable: false, above: 9mm, below: 9mm)
#let long-question(number, level: 2, first: none, body) = block(width: 100%, above: 9mm, below: 9mm, layout(area => {
  let height = measure(block(width: area.width - number-width, body)).height
  let breaks = height > look.page-height
  let ends = if breaks { ([#metadata(number) <question-begins>], [#metadata(none) <question-ends>]) } else { ([], []) }
  hanging(number-width, called(number, level), { spot("begins"); ends.at(0); body; ends.at(1); spot("ends") },
    first: first, breakable: breaks)
}))
// What is asked leaves the column of the marks free.
#let asked(body) = pad(right: beside, body)
// What stands before the parts of a long question stays with the first of them.
#let stem(body) = block(width: 100%, sticky: true, asked(body))
// A part of a long question stays on one page wherever it fits on one.
#let kept(body, above: 4mm, below: 0mm) = block(width: 100%, above: above, below: below, layout(area => {
  let height = measure(block(width: area.width, body)).height
  block(width: 100%, breakable: height > look.page-height, body)
}))

// What is chosen: a box to tick before each option, the two sides of pairs, lettered items, a scale.
// A list whose entries have labels of their own, on the baseline of their first line.
#let entries(labels, bodies, spacing: 2.9mm) = enum(tight: false, spacing: spacing, indent: 0pt, body-indent: 0pt,
  number-align: start, numbering: n => labels.at(n - 1), ..bodies)
#let option-label(item) = {
  let ticks = not look.sheet
  let letter = item.at(0) != []
  box(width: if ticks { 6mm } else { 0mm } + if letter { 6mm * scale-of } else { 0mm }, {
    if ticks { box(width: 6mm, tick-box) }
    if letter { strong(item.at(0)) }
  })
}
#let option-list(items) = entries(items.map(option-label), items.map(item => item.at(1)))
#let options(..items) = block(above: 3.4mm, below: 1mm, option-list(items.pos()))
// The same in as many columns as their widest has room in, where more than one has.
#let options-across(..items) = block(above: 3.4mm, below: 1mm, width: 100%, layout(size => {
  let cells = items.pos().map(item => option-list((item,)))
  let widest = calc.max(0mm, ..cells.map(cell => measure(cell).width.to-absolute()))
  let fitting = range(cells.len(), 1, step: -1).filter(many => many * (widest + 6mm) <= size.width)
  if fitting.len() == 0 { options(..items) } else {
    // three over one looks like a mistake; two over two does not
    let rows = calc.ceil(cells.len() / fitting.at(0))
    let many = calc.ceil(cells.len() / rows)
    grid(columns: (1fr,) * many, column-gutter: 3mm, row-gutter: 2.9mm, ..cells)
  }
}))
#let lettered(items) = entries(items.map(item => box(width: 7mm * scale-of, strong(item.at(0)))), items.map(item => item.at(1)))
#let items(..items) = block(above: 3.4mm, below: 1mm, lettered(items.pos()))
// On the baseline of the words beside it.
#let blank-for-letter = box(width: 11mm, height: 0.72em, align(bottom, line(length: 100%, stroke: 0.5pt)))
// Two sides that are matched: behind each of the left a line for the letter of the right.
#let pairs(lefts, rights) = block(above: 3.4mm, below: 1mm, grid(
  columns: (1fr, auto, 1fr), column-gutter: (3mm, 9mm), row-gutter: 3.4mm,
  ..range(calc.max(lefts.len(), rights.len())).map(k => {
    let side = item => lettered((item,))
    (
      if k < lefts.len() { side(lefts.at(k)) } else { [] },
      if k < lefts.len() and not look.sheet { blank-for-letter } else { [] },
      if k < rights.len() { side(rights.at(k)) } else { [] },
    )
  }).flatten(),
))
#let scale(steps, low, high) = block(above: 3mm, below: 1mm, scale-boxes(steps, low, high))
#let ruled(count) = block(above: 7mm, below: 1mm, width: 100%, stack(spacing: 8mm, ..range(count).map(k => line(length: 100%, stroke: 0.4pt))))

#let blank = box(width: 26mm, line(length: 100%, stroke: 0.5pt))
// A figure of a question, its words beside it for those who cannot see it.
#let picture(source, alt, number: none) = block(above: 3mm, below: 3mm, breakable: false, {
  image(bytes(source), format: "svg", alt: alt, width: auto)
  if number != none { block(above: 1.6mm, text(size: small, strong(said(w.figure, number)))) }
})
// A text with its figure beside it.
#let with-figure(body, figure) = grid(columns: (1fr, auto), column-gutter: 6mm, body, figure)

// A numbered gap in a text: a line to write on, or what is to be chosen from.
#let gap(number, options) = {
  let mark = text(size: 7pt, baseline: -0.4em, str(number))
  if options.len() == 0 { box(width: 26mm)[#mark#h(1pt)#box(width: 1fr, line(length: 100%, stroke: 0.5pt))] } else {
    underline(stroke: 0.5pt, offset: 2.5pt, evade: false)[#mark#h(1pt)#options.map(option => [#strong(option.at(0))~#slanted-text(option.at(1))]).join(h(0.6em))]
  }
}
#let answer-width = 52mm
#let unit-width = 21mm * scale-of

// Room to work in.
#let squared(height, more, across) = layout(area => {
  let columns = calc.floor(area.width / 5mm)
  let rows = calc.max(2, calc.floor(height / 5mm)) + calc.floor(more / 5mm)
  block(above: 4mm, below: 5mm, width: columns * 5mm, height: rows * 5mm, stroke: 0.4pt + luma(150), {
    for k in range(1, columns) { place(dx: k * 5mm, line(angle: 90deg, length: rows * 5mm, stroke: 0.25pt + luma(170))) }
    for k in range(1, rows) { place(dy: k * 5mm, line(length: columns * 5mm, stroke: 0.25pt + luma(170))) }
    if across {
      let (x, y) = (calc.quo(columns, 2) * 5mm, calc.quo(rows, 2) * 5mm)
      place(dy: y, line(length: columns * 5mm, stroke: 1pt))
      place(dx: x, line(angle: 90deg, length: rows * 5mm, stroke: 1pt))
      place(dx: columns * 5mm - 2mm, dy: y - 1mm, polygon(fill: black, (0mm, 0mm), (2mm, 1mm), (0mm, 2mm)))
      place(dx: x - 1mm, polygon(fill: black, (0mm, 2mm), (1mm, 0mm), (2mm, 2mm)))
    }
  })
})
#let room-for(height, more, kind) = {
  if height == 0mm { v(4mm) } else if kind == "lines" {
    let rows = calc.max(1, calc.floor(height / 8mm)) + calc.floor(more / 8mm)
    pad(right: beside, block(above: 0mm, below: 0mm, width: 100%,
      stack(..range(rows).map(k => { v(8mm); line(length: 100%, stroke: 0.3pt + luma(110)) }))))
    v(6mm, weak: true)
  } else if kind == "squares" or kind == "axes" {
    pad(right: beside, squared(height, more, kind == "axes"))
  } else if kind == "box" {
    pad(right: beside, block(above: 4mm, below: 5mm, width: 100%, height: height + more, stroke: 0.6pt))
  } else { v(height + more) }
}

// A part: its text, its marks, room for working and a line for the answer; on a paper with an answer sheet the line is
// on the sheet.
#let part(marks: "1", room: 20mm, more: 0mm, before: (), after: none, wide: false, answer: true, ordered: 0,
  kind: look.working, body) = {
  let in-margin = box(width: margin-column, align(right, marks-label(marks)))
  block(width: 100%, {
    asked(body)
    if look.sheet {
      if room > 0mm { room-for(room, more, kind) }
      if marks != "0" { place(bottom + right, in-margin) }
    } else if ordered > 0 {
      v(5mm)
      grid(columns: (1fr, auto, margin-column), column-gutter: (2mm, 1.5mm), align: bottom,
        [], [#text(size: small, w.answer)#h(2mm)#order-boxes(ordered)], in-margin)
    } else if answer {
      room-for(room, more, kind)
      // the line stands at one place whatever the unit behind it
      if before.len() == 0 and not wide {
        h(1fr)
        text(size: small, w.answer)
        h(2mm)
        box(width: answer-width, dotted)
        h(1.5mm)
        box(width: unit-width, after)
        h(1.5mm)
        in-margin
      } else { grid(columns: (1fr, auto, answer-width, if wide { auto } else { unit-width }, margin-column),
        column-gutter: (2mm, 2mm, 1.5mm, 1.5mm), align: bottom,
        row-gutter: 7mm,
        ..range(calc.max(1, before.len())).map(k => ([],
          if before.len() == 0 { text(size: small, w.answer) } else { before.at(k) }, dotted, after,
          if k + 1 < before.len() { [] } else { in-margin })).flatten()) }
    } else if marks != "0" {
      if room > 0mm { room-for(room, more, kind) }
      place(bottom + right, in-margin)
    }
  })
}
// Parts with labels, (a) or (i), as one list where they stay together on a page; otherwise each may go to the next.
#let parts(under: false, first: false, together: true, labels, ..bodies) = {
  let named = labels.map(label => context {
    let least = 8mm * scale-of
    box(width: calc.max(least.to-absolute(), measure(label).width + 1.6mm), label)
  })
  let listed(some, above) = {
    let list = pad(left: if under { 7mm * scale-of } else { 0mm },
      entries(some.map(each => each.at(0)), some.map(each => each.at(1)), spacing: 8mm))
    if together { block(width: 100%, above: above, below: 0mm, list) } else { kept(list, above: above) }
  }
  let pairs = named.zip(bodies.pos())
  let above = if first { 4mm } else { 8mm }
  if together { listed(pairs, above) } else {
    for (k, pair) in pairs.enumerate() { listed((pair,), if k == 0 { above } else { 8mm }) }
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

// From which total on a grade is given: its share, and its marks of so many.
#let grades(total, rows) = block(above: 5mm, below: 6mm, breakable: false, {
  set text(size: 10pt)
  table(
    columns: (auto, auto, auto), stroke: none, inset: (x: 2.4mm, y: 1.3mm), align: (left, right, right),
    table.hline(stroke: 0.6pt),
    table.header(strong[Grade], strong[from], strong[of #total marks]),
    table.hline(stroke: 0.4pt),
    ..rows.flatten(),
    table.hline(stroke: 0.6pt),
  )
})

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

// What earns a part of the marks, in the cell of what is accepted.
#let less(what, marks, said) = block(above: 1.6mm, below: 0mm, text(size: 9pt)[
  #what: #marks-label(marks)#if said != none [; #slanted-text(said)]])

// The answers of many forms, a row each, on pages that lie on their side.
#let answers(title: none, subtitle: none, body) = {
  set page(flipped: true, margin: (top: 15mm, bottom: 17mm, x: 14mm), footer: foot)
  form-begins(title, [])
  heading(level: 1, outlined: false, text(size: 14pt, title))
  text(size: 9pt, subtitle)
  body
  form-ends
}
#let short-key(count, heads, cells) = {
  set text(size: 9pt)
  block(above: 4mm, table(
    columns: (auto,) + (1fr,) * count, stroke: (x, y) => (bottom: 0.25pt), inset: (x: 1.2mm, y: 1.1mm), align: left + horizon,
    table.hline(stroke: 0.6pt),
    table.header(strong(w.form), ..heads),
    table.hline(stroke: 0.5pt),
    ..cells,
    table.hline(stroke: 0.6pt),
  ))
}

#let key-table(..cells) = {
  set text(size: 10pt)
  table(
    columns: (auto, 1fr, 1.1fr, auto), stroke: none, inset: (x: 2mm, y: 1.7mm),
    align: (left, left, left, right),
    table.hline(stroke: 0.7pt),
    table.header(strong[Question], strong[Answer], strong[Accepted], strong[Marks]),
    table.hline(stroke: 0.5pt),
    ..cells,
    table.hline(stroke: 0.7pt),
  )
}

// A row in which an answer of one line is tall, with what stands beside it on its line. ``answer`` sets it, with something
// at its beginning.
#let tall-row(label, answer, accepted, marks) = {
  let is-line = 55mm
  let on-line = cell => context if measure(answer(none)).width > is-line { cell } else {
    pad(top: lowered(answer, auto), cell)
  }
  (on-line(label), answer(none), on-line(accepted), on-line(marks))
}

#let solution(number, body) = block(width: 100%, below: 4mm, entries((box(width: 15mm, strong(number)),), (body,)))

// What came back to a student: above it who, when and how much, and of each part a few rows.
#let returned(title, who, said, body) = {
  set page(footer: foot)
  form-begins(title, [#who])
  heading(level: 1, outlined: false, text(size: 17pt, title))
  block(above: 3mm, strong(who))
  for line in said { block(above: 2mm, line) }
  v(4mm, weak: true)
  body
  form-ends
}
#let returned-part(label, body) = if label == [] { block(width: 100%, above: 4mm, body) } else {
  block(width: 100%, above: 5mm, entries((box(width: 8mm, label),), (body,)))
}
#let came-back(rows, key, solution) = {
  let more = if key == none { () } else { (([Key], key),) }
  block(above: 3mm, below: 2mm, inset: (left: 3mm), stroke: (left: 0.8pt + luma(55%)), {
    set text(size: small)
    grid(columns: (26mm, 1fr), row-gutter: 2mm, ..(rows + more).map(row => (text(fill: luma(30%), row.at(0)), row.at(1))).flatten())
  })
  if solution != none { block(above: 3.4mm, inset: (left: 3mm), solution) }
}
