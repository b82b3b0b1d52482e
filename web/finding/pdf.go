package finding

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"sync"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"

	"glenmist/core/evidence"
	"glenmist/core/unit"
	"glenmist/web/draw"
)

// paperSizes maps the value in the address to a paper size.
var paperSizes = map[string]string{"a4": fpdf.PageSizeA4, "letter": fpdf.PageSizeLetter}

// Page dimensions in millimetres and the largest type size in points. The owner's page must
// fit on one sheet.
const (
	margin     = 15.0
	millimetre = 72 / 25.4 // points
)

var typeSizes = []float64{11, 10.5, 10, 9.5, 9, 8.5, 8, 7.5, 7}

// PrintFinding sends the finding and the record as PDF.
func (s *Pages) PrintFinding(w http.ResponseWriter, r *http.Request) {
	size, ok := paperSizes[cmpOr(r.URL.Query().Get("page"), "a4")]
	if !ok {
		s.Fail(w, r, http.StatusUnprocessableEntity, "Expected page=a4 or page=letter.")
		return
	}
	p, ok := s.finding(w, r)
	if !ok {
		return
	}
	var out bytes.Buffer
	if err := writeFinding(&out, p, size); err != nil {
		s.Log.Error("finding as PDF", "job", p.Job.Number, "error", err)
		s.Fail(w, r, http.StatusInternalServerError, "The PDF could not be made. The page itself prints as well.")
		return
	}
	h := w.Header()
	h.Set("Content-Type", "application/pdf")
	h.Set("Content-Disposition", fmt.Sprintf(`inline; filename="finding-%s.pdf"`, p.Job.Number))
	h.Set("Cache-Control", "no-store")
	_, _ = w.Write(out.Bytes())
}

func cmpOr(s, otherwise string) string {
	if s == "" {
		return otherwise
	}
	return s
}

// writeFinding writes the owner's page, in the largest type that fits on one sheet, then the
// record.
func writeFinding(out *bytes.Buffer, p findingPage, size string) error {
	for i, pt := range typeSizes {
		d := newPDF(p, size, pt)
		d.owner(p)
		if d.PageNo() > 1 && i < len(typeSizes)-1 {
			continue
		}
		d.record(p)
		return d.Output(out)
	}
	return errors.New("no size of type was tried")
}

// pdfSheet is a PDF under construction.
type pdfSheet struct {
	*fpdf.Fpdf
	pt   float64
	wide float64 // width between the margins in mm
}

func newPDF(p findingPage, size string, pt float64) *pdfSheet {
	f := fpdf.New("P", "mm", size, "")
	f.AddUTF8FontFromBytes("sheet", "", goregular.TTF)
	f.AddUTF8FontFromBytes("sheet", "B", gobold.TTF)
	f.SetMargins(margin, margin, margin)
	f.SetAutoPageBreak(true, margin+4)
	f.SetTitle("Finding, job "+p.Job.Number, true)
	f.SetCreator("Glenmist", true)
	f.SetCreationDate(p.Now)
	f.SetModificationDate(p.Now)
	f.SetFooterFunc(func() {
		f.SetY(-margin)
		f.SetFont("sheet", "", 8)
		f.SetTextColor(77, 90, 83)
		f.CellFormat(0, 5, printable(fmt.Sprintf("Job %s · %s · sheet %d", p.Job.Number, p.Job.Vehicle.Fleet, f.PageNo())), "", 0, "C", false, 0, "")
	})
	f.AddPage()
	w, _ := f.GetPageSize()
	return &pdfSheet{f, pt, w - 2*margin}
}

func (d *pdfSheet) line() float64 { return d.pt * 0.47 } // height of a line in mm

func (d *pdfSheet) write(style string, scale float64, text string) {
	d.SetFont("sheet", style, d.pt*scale)
	d.SetTextColor(20, 32, 27)
	d.MultiCell(0, d.line()*scale, printable(text), "", "L", false)
}

func (d *pdfSheet) heading(text string) {
	d.Ln(d.line() * 0.45)
	d.write("B", 1.15, text)
}

func (d *pdfSheet) item(text string) {
	x := d.GetX()
	d.SetFont("sheet", "", d.pt)
	d.SetTextColor(20, 32, 27)
	d.CellFormat(4, d.line(), "•", "", 0, "L", false, 0, "")
	d.MultiCell(d.wide-4, d.line(), printable(text), "", "L", false)
	d.SetX(x)
}

func (d *pdfSheet) items(heading string, all []string) {
	if len(all) == 0 {
		return
	}
	d.heading(heading)
	for _, text := range all {
		d.item(text)
	}
}

// owner writes the page for the owner, in plain words.
func (d *pdfSheet) owner(p findingPage) {
	const code = 24.0 // mm
	d.square(p.QR, margin+d.wide-code, margin, code)
	d.SetRightMargin(margin + code + 4)
	d.write("B", 1.8, "Finding")
	d.write("B", 1.2, p.Job.Vehicle.Fleet+" "+p.Job.Vehicle.What)
	d.write("", 0.9, fmt.Sprintf("Job %s, %s, %s. The complaint: %s", p.Job.Number, p.Opened, p.Job.Distance, p.Job.Complaint))
	d.SetRightMargin(margin)
	d.SetY(max(d.GetY(), margin+code+1))
	for _, text := range p.Cautions {
		d.Ln(1)
		d.SetFillColor(249, 227, 221)
		d.SetDrawColor(156, 36, 21)
		d.SetFont("sheet", "B", d.pt)
		d.SetTextColor(20, 32, 27)
		d.MultiCell(0, d.line()*1.15, printable("Care: "+text), "1", "L", true)
	}
	d.heading("What was found")
	if v := p.Verdict; v != nil {
		d.write("B", 1.05, p.Found())
		rest := ""
		if p.What != "" {
			rest = unit.Capital(p.What) + ". "
		}
		d.write("", 1, rest+p.SignedWords())
	} else {
		d.write("", 1, "The cause is not proven yet. "+p.Status+".")
	}
	d.items("How it was shown", p.Shown)
	d.pictures(p)
	d.items("What to do now", p.Do)
	d.repair(p)
	d.items("What can wait", p.Wait)
	if len(p.Spared) > 0 {
		d.heading("Not needed")
		d.write("", 1, strings.Join(p.Spared, ", ")+": cleared.")
	}
	if len(p.Left) > 0 {
		d.heading("Still possible")
		d.write("", 1, strings.Join(p.Left, ", ")+".")
	}
}

// repair writes what was done, and what it costs.
func (d *pdfSheet) repair(p findingPage) {
	if p.Repair.Planned == "" {
		return
	}
	lines := append([]string{}, p.Repair.Done...)
	if p.Repair.Held != "" {
		lines = append(lines, p.Repair.Held)
	}
	lines = append(lines, p.Repair.Planned)
	if p.Repair.Billed != "" {
		lines = append(lines, p.Repair.Billed)
	}
	d.items("The repair", lines)
}

// pictures draws the engine plan, and beside it the kilovolts or the plugs.
func (d *pdfSheet) pictures(p findingPage) {
	const high = 64.0
	_, page := d.GetPageSize()
	if d.GetY()+high+2 > page-margin-4 {
		d.AddPage()
	}
	y := d.GetY() + 2
	half := d.wide/2 - 2
	d.bay(p.Plan, margin, y, half, high)
	switch {
	case p.Picture != nil:
		scale := min(half/float64(p.Picture.W), high/float64(p.Picture.H))
		d.strokes(p.Picture.Marks, margin+half+4, y, scale)
	case len(p.Plugs) > 0:
		each := half / float64(len(p.Plugs))
		for i, c := range p.Plugs {
			scale := min((each-1)/c.Draw.W, (high-10)/c.Draw.H)
			x := margin + half + 4 + float64(i)*each + (each-scale*c.Draw.W)/2
			d.strokes(c.Draw.Marks, x, y+5, scale)
			style, tag := "", c.Tag
			if c.Abnormal {
				style, tag = "B", "▲"+tag
			}
			d.SetFont("sheet", style, 8)
			d.Text(margin+half+4+float64(i)*each+each/2-d.GetStringWidth(tag)/2, y+3, tag)
		}
	case p.Course != nil:
		d.strokes(p.Course.Marks, margin+half+4, y+8, min(half/float64(p.Course.W), high/float64(p.Course.H)))
	}
	d.SetY(y + high + 1)
}

var colourOf = regexp.MustCompile(`(fill|stroke)="(#[0-9a-f]{6}|none)"`)

// strokes draws the marks of a picture in millimetres, in the colours of a saved file.
func (d *pdfSheet) strokes(marks []draw.Mark, x, y, scale float64) {
	for _, m := range marks {
		fill, line := "none", "none"
		for _, found := range colourOf.FindAllStringSubmatch(string(m.Look()), -1) {
			if found[1] == "fill" {
				fill = found[2]
			} else {
				line = found[2]
			}
		}
		if m.D == "" {
			size := 14.0
			if m.Class == "small" {
				size = 12
			}
			d.SetFont("sheet", "", size*scale*millimetre*0.9)
			d.SetTextColor(rgb(fill))
			text := printable(m.Text)
			at := x + scale*m.X
			switch width := d.GetStringWidth(text); m.Anchor {
			case "middle":
				at -= width / 2
			case "end":
				at -= width
			}
			d.Text(at, y+scale*m.Y, text)
			continue
		}
		parsed, err := fpdf.SVGBasicParse(fmt.Appendf(nil, `<svg width="1pt" height="1pt"><path d=%q/></svg>`, m.D))
		if err == nil && (len(parsed.Paths) != 1 || len(parsed.Paths[0].Segments) == 0) {
			err = errors.New("a path that is not understood")
		}
		if err != nil {
			d.SetError(fmt.Errorf("draw %s, %s: %w", m.Class, m.D, err))
			return
		}
		style := ""
		if fill != "none" {
			d.SetFillColor(rgb(fill))
			style += "F"
		}
		if line != "none" {
			d.SetDrawColor(rgb(line))
			style += "D"
		}
		d.SetLineWidth(max(0.12, scale))
		for _, path := range parsed.Paths {
			d.outline(path.Segments, x, y, scale)
			d.DrawPath(style)
		}
	}
}

// outline draws a path of moves, lines and quadratic curves.
func (d *pdfSheet) outline(segments []fpdf.SVGBasicSegmentType, x, y, scale float64) {
	var px, py float64 // current point of the path
	to := func(nx, ny float64) (float64, float64) {
		px, py = nx, ny
		return x + scale*nx, y + scale*ny
	}
	for _, s := range segments {
		switch s.Cmd {
		case 'M':
			d.MoveTo(to(s.Arg[0], s.Arg[1]))
		case 'L':
			d.LineTo(to(s.Arg[0], s.Arg[1]))
		case 'H':
			d.LineTo(to(s.Arg[0], py))
		case 'V':
			d.LineTo(to(px, s.Arg[0]))
		case 'Q': // converted to a cubic curve
			cx, cy, nx, ny := s.Arg[0], s.Arg[1], s.Arg[2], s.Arg[3]
			ax, ay := x+scale*(px+2*(cx-px)/3), y+scale*(py+2*(cy-py)/3)
			bx, by := x+scale*(nx+2*(cx-nx)/3), y+scale*(ny+2*(cy-ny)/3)
			ex, ey := to(nx, ny)
			d.CurveBezierCubicTo(ax, ay, bx, by, ex, ey)
		case 'C':
			ax, ay, bx, by := x+scale*s.Arg[0], y+scale*s.Arg[1], x+scale*s.Arg[2], y+scale*s.Arg[3]
			ex, ey := to(s.Arg[4], s.Arg[5])
			d.CurveBezierCubicTo(ax, ay, bx, by, ex, ey)
		case 'Z':
			d.ClosePath()
		}
	}
}

func rgb(hex string) (r, g, b int) {
	if _, err := fmt.Sscanf(hex, "#%02x%02x%02x", &r, &g, &b); err != nil {
		return 20, 32, 27
	}
	return r, g, b
}

// bay draws the engine plan: the blocks, the cylinders with their counts, and the tags of the
// fitted parts.
func (d *pdfSheet) bay(p draw.Plan, x, y, w, h float64) {
	scale := min(w/float64(p.W), h/float64(p.H))
	at := func(b draw.Box) (float64, float64, float64, float64) {
		return x + scale*float64(b.X), y + scale*float64(b.Y), scale * float64(b.W), scale * float64(b.H)
	}
	text := func(style string, size float64, cx, cy int, words string) {
		d.SetFont("sheet", style, size*scale*millimetre)
		words = printable(words)
		d.Text(x+scale*float64(cx)-d.GetStringWidth(words)/2, y+scale*float64(cy), words)
	}
	d.SetLineWidth(0.25)
	d.SetDrawColor(118, 133, 124)
	d.SetTextColor(77, 90, 83)
	text("", 15, p.W/2, 14, "firewall")
	text("", 15, p.W/2, p.H-4, "front bumper")
	for _, b := range p.Blocks {
		bx, by, bw, bh := at(b.Box)
		d.SetFillColor(238, 242, 238)
		d.RoundedRect(bx, by, bw, bh, 1, "1234", "FD")
	}
	for _, c := range p.Cells {
		cx, cy, cw, ch := at(c.Box)
		d.SetFillColor(250, 251, 248)
		d.SetDrawColor(118, 133, 124)
		d.SetTextColor(20, 32, 27)
		d.SetLineWidth(0.25)
		if c.Trouble {
			d.SetFillColor(249, 227, 221)
			d.SetDrawColor(156, 36, 21)
			d.SetLineWidth(0.6)
		}
		d.RoundedRect(cx, cy, cw, ch, 0.8, "1234", "FD")
		mark := fmt.Sprint(c.N)
		if c.Trouble {
			mark = "▲ " + mark
		}
		text("B", 26, c.MidX(), c.Y+c.H*2/5, mark)
		tags := make([]string, len(c.Tags))
		for i, t := range c.Tags {
			tags[i] = string(t)
		}
		text("", 14, c.MidX(), c.Y+c.H*2/3, strings.Join(tags, " "))
		if !strings.HasPrefix(c.Count, "no ") {
			text("", 12, c.MidX(), c.Y+c.H*9/10, c.Count)
		}
	}
}

// record writes the technician's pages.
func (d *pdfSheet) record(p findingPage) {
	d.AddPage()
	d.write("B", 1.5, "Record of job "+p.Job.Number)
	d.write("", 0.95, fmt.Sprintf("%s. %s.", strings.TrimSuffix(p.Job.Vehicle.Engine.Describe(), "."), p.Status))
	if len(p.Gates) > 0 {
		var all []string
		for _, g := range p.Gates {
			state := "not yet: "
			if g.Met {
				state = "met: "
			}
			all = append(all, state+g.Words)
		}
		d.items("Gates", all)
	}
	d.items("Away from home", p.Parts)
	d.heading("Everything observed, newest first")
	for _, l := range p.Lines {
		words := unit.Capital(l.Words)
		if l.Decode != "" {
			words += " → " + l.Decode
		}
		if l.Withdrawn != nil {
			words += " (withdrawn: " + l.Withdrawn.Withdraw().Reason + ")"
		}
		if l.Entry.Note != "" {
			words += " “" + l.Entry.Note + "”"
		}
		d.item(fmt.Sprintf("%d. %s. %s, %s", l.Entry.Seq, words, l.Entry.By, l.Entry.Done.Local().Format("2 Jan 15:04")))
	}
}

// square draws a QR code.
func (d *pdfSheet) square(code [][]bool, x, y, size float64) {
	if len(code) == 0 {
		return
	}
	d.SetFillColor(0, 0, 0)
	cell := size / float64(len(code))
	for row, line := range code {
		for col := 0; col < len(line); col++ {
			run := 0
			for col+run < len(line) && line[col+run] {
				run++
			}
			if run > 0 {
				d.Rect(x+float64(col)*cell, y+float64(row)*cell, float64(run)*cell, cell, "F")
				col += run
			}
		}
	}
}

// printable replaces characters that the font lacks.
func printable(s string) string {
	var b strings.Builder
	for _, r := range s {
		switch {
		case r == '\u202f' || r == '\u2009' || r == '\u00a0':
			b.WriteRune('\u00a0')
		case r == '✓':
			b.WriteRune('√')
		case r == '\n' || r == '\t':
			b.WriteRune(' ')
		case hasGlyph(r):
			b.WriteRune(r)
		default:
			b.WriteRune('?')
		}
	}
	return b.String()
}

var regular = sync.OnceValues(func() (*sfnt.Font, error) { return sfnt.Parse(goregular.TTF) })

func hasGlyph(r rune) bool {
	f, err := regular()
	if err != nil {
		return r < 0x7f
	}
	i, err := f.GlyphIndex(nil, r)
	return err == nil && i != 0
}

// Found states the fault and its probability in a sentence.
func (p findingPage) Found() string {
	if p.Verdict.Trial {
		return fmt.Sprintf("Trial repair of %s. It is the likeliest fault, at %s, which is too little for a verdict.", evidence.UnitWords(p.Verdict.Unit), unit.Percent(p.Verdict.P))
	}
	sure := "at " + unit.Percent(p.Verdict.P)
	if p.Verdict.P >= 0.99 {
		sure = "as good as certain"
	}
	return fmt.Sprintf("%s is at fault, %s.", unit.Capital(evidence.UnitWords(p.Verdict.Unit)), sure)
}

// SignedWords states who signed, and what a second verdict changed.
func (p findingPage) SignedWords() string {
	if p.Signed == nil {
		return "Not signed yet."
	}
	who := p.Signed.By
	if by := p.Job.Ledger.CountersignedBy(p.Signed.Seq); by != "" {
		who += ", countersigned by " + by
	}
	s := fmt.Sprintf("Signed by %s, %s; %s.", who, p.Signed.Done.Local().Format("2 Jan 15:04"), p.Proven)
	if len(p.Changed) > 0 {
		s += " It changed what stood before: " + strings.Join(p.Changed, "; ") + "."
	}
	return s
}
