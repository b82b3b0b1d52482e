// Package finding shows the finding of a job as a page and as a PDF: the faulty unit, the work
// done and the proof.
package finding

import (
	"embed"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/boombuler/barcode/qr"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/web/capture"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
	"glenmist/web/plugs"
	"glenmist/web/repair"
)

// Pages handles the finding of a job.
type Pages struct{ *capture.Pages }

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages.
func New(of *capture.Pages) *Pages { return &Pages{of} }

// findingPage is the model: one page for the owner in plain words, one for the technician.
type findingPage struct {
	page.Base
	At       string
	Job      job.Job
	Plan     draw.Plan
	Verdict  *evidence.Verdict
	Signed   *evidence.Entry
	Status   string
	Proven   string // whether the repair is proven, in words
	What     string // the unit in plain words
	Shown    []string
	Do       []string
	Spared   []string
	Left     []string
	Cautions []string
	Picture  *draw.Picture
	Gates    []gateLine
	Lines    []jobs.LedgerLine
	Course   *draw.Course
	Parts    []string
	Opened   string
	Changed  []string // changes by a second verdict
	Wait     []string // work that can wait
	Plugs    []*plugs.Card
	Repair   repair.Summary
	QR       [][]bool
	Now      time.Time
}

type gateLine struct {
	Words string
	Met   bool
}

// plainly explains a unit to a person without technical knowledge.
var plainly = map[fault.Unit]string{
	engine.Coil: "an ignition coil makes the high voltage for the spark", engine.Plug: "a spark plug lights the fuel in a cylinder",
	engine.Lead: "an ignition lead carries the spark from the coil to the plug", engine.CoilLead: "the coil lead carries the spark from the coil to the distributor",
	engine.Boot: "a boot carries the spark from the coil down to the plug", engine.Cap: "the distributor cap hands the spark on to each cylinder",
	engine.Rotor: "the rotor hands the spark on inside the distributor", engine.Connector: "a connector brings the current to an ignition coil",
	engine.Injector: "an injector sprays the fuel for a cylinder", engine.Compression: "a cylinder has to hold its pressure to burn its fuel",
	engine.Well: "the well around a spark plug has to be dry", engine.Feed: "this is the supply of current to the ignition", engine.Ground: "this is the way back of the current of the ignition",
	engine.Trigger: "this wire tells a coil when to fire", engine.Driver: "this circuit switches a coil", engine.AirLeak: "the engine draws air where it should not",
	engine.FuelSupply: "the fuel does not come with the pressure that it needs",
}

// ShowFinding shows the finding of a job.
func (s *Pages) ShowFinding(w http.ResponseWriter, r *http.Request) {
	if p, ok := s.finding(w, r); ok {
		s.Render(w, r, http.StatusOK, "finding.html", p)
	}
}

// finding builds the finding of a job, or answers with what is missing.
func (s *Pages) finding(w http.ResponseWriter, r *http.Request) (findingPage, bool) {
	it, ok := s.Load(w, r)
	if !ok {
		return findingPage{}, false
	}
	j := it.Record.Job
	p := findingPage{Base: s.Base(r, "Finding, "+j.Number), At: "/jobs/" + url.PathEscape(j.Number), Job: j, Plan: draw.JobPlan(it.Assessment(), j.Number, jobs.ChosenCylinder(r, it)), Status: plan.StatusOf(j, it.Assessment()).Words, Opened: j.Opened.Local().Format("2 January 2006")}
	m := jobs.VerdictView.Model(it, page.NewForm(url.Values{}, nil, page.SameName)).(jobs.VerdictModel) //nolint:forcetypeassert // the model of the verdict view
	p.Signed, p.Verdict, p.Changed = m.Signed, m.Named(), m.Changed
	if m.Signed != nil { // a signed verdict stays valid until a second one is signed
		p.Verdict = m.Signed.Verdict()
	}
	if m.Signed != nil && m.Offer != nil && !repair.Renewed(it) {
		p.Status += "; new evidence speaks for a second verdict: " + strings.Join(m.Changes, "; ")
	}
	p.Now, p.Proven = s.Now(), provenWords(it)
	p.QR = qrOf(s.Home(r) + p.At)
	p.Spared, p.Left = m.Spared, m.Left
	for _, g := range m.Gates {
		p.Gates = append(p.Gates, gateLine{g.Needs, g.Met})
	}
	if v := p.Verdict; v != nil {
		kind := fault.Unit(v.Unit)
		if cut := strings.LastIndexByte(v.Unit, ' '); cut > 0 {
			kind = fault.Unit(v.Unit[:cut])
		}
		p.What = plainly[kind]
		do := "Renew or put right: " + evidence.UnitWords(v.Unit)
		if repair.Renewed(it) {
			do = "Put right already: " + evidence.UnitWords(v.Unit)
		}
		with := v.With
		if repair.Renewed(it) { // what stayed on the engine was not put right
			with = slices.DeleteFunc(slices.Clone(with), func(words string) bool { return repair.Stays(it, words) })
		}
		if len(with) > 0 {
			do += ", and with it " + strings.Join(with, ", ")
		}
		p.Do = append(p.Do, do+".")
		for _, also := range v.Also {
			p.Do = append(p.Do, "With it: "+also+".")
		}
		if v.Cause != "" {
			p.What = strings.TrimPrefix(p.What+". Behind it: "+v.Cause, ". ")
		}
		p.Do = append(p.Do, proofWords(it, *v)...)
	} else {
		p.Do = append(p.Do, "The cause is not proven yet: go on before anything is bought.")
	}
	for _, d := range it.Assessment().Decodes {
		if d.Outcome != diagnose.Waiting {
			p.Shown = append(p.Shown, explain.Move(d)+".")
		}
	}
	p.Shown = append(p.Shown, looksFound(it)...)
	p.Cautions = append(p.Cautions, cautionsOf(it)...)
	p.Lines = jobs.LedgerLines(j, it.Assessment(), p.At)
	p.Course = draw.NewCourse(course.Beliefs(it.Shop.Beliefs(), j))
	for _, moved := range it.Assessment().Now.Away() {
		p.Parts = append(p.Parts, fmt.Sprintf("%s is at %s", moved.Tag.Words(), moved.At))
	}
	p.Wait = canWait(it, p.Verdict)
	sheet, err := repair.CaseOf(r.Context(), s.Pages.Pages, it)
	if err != nil {
		s.FailStore(w, r, err)
		return p, false
	}
	p.Repair = repair.Of(it, sheet)
	if err := s.findingPicture(r, it, &p); err != nil {
		s.FailCapture(w, r, err)
		return p, false
	}
	board := plugs.NewBoard(it, page.NewForm(url.Values{}, nil, page.SameName))
	if board.Count > 0 {
		p.Plugs = board.Cards
		for _, set := range board.Set {
			p.Shown = append(p.Shown, unit.Capital(set.Words)+".")
		}
	}
	return p, true
}

// looksFound lists what looks found to be abnormal, but for plugs that were read in full.
func looksFound(it jobs.Loaded) (found []string) {
	for _, m := range it.Assessment().Moments {
		if l := m.Entry.Look(); l != nil {
			for _, item := range l.Items {
				if item.Finding.Abnormal() && item.Plug.Empty() {
					found = append(found, unit.Capital(item.Name())+": "+item.Finding.Words()+".")
				}
			}
		}
	}
	return found
}

// canWait lists parts that are due by age and are not the fault.
func canWait(it jobs.Loaded, v *evidence.Verdict) []string {
	var all []string
	for _, r := range it.Assessment().Records {
		age := r.AgeAt(it.Record.Job.Distance, it.Record.Job.Opened)
		if !age.Due() {
			continue
		}
		what := "All " + string(r.Kind) + "s"
		if r.Place != "" {
			what = unit.Capital(part.Of(r.Kind, r.Place).Words())
		}
		words := fmt.Sprintf("%s: %s.", what, age.Words())
		if v != nil && r.Place == "" && strings.HasPrefix(v.Unit, string(r.Kind)) {
			words = fmt.Sprintf("The other %ss: %s; cheaper now if the same covers come off.", r.Kind, age.Words())
		}
		all = append(all, words)
	}
	return all
}

// qrOf returns the QR code of an address, or nil if the address is too long.
func qrOf(address string) [][]bool {
	code, err := qr.Encode(address, qr.M, qr.Auto)
	if err != nil {
		return nil
	}
	const quiet = 4 // width of the white margin in modules (P: ISO/IEC 18004)
	n := code.Bounds().Dx()
	all := make([][]bool, n+2*quiet)
	for y := range all {
		all[y] = make([]bool, n+2*quiet)
	}
	for y := range n {
		for x := range n {
			r, _, _, _ := code.At(x, y).RGBA()
			all[y+quiet][x+quiet] = r == 0
		}
	}
	return all
}

// QRPath returns the code as an SVG path, one module to a unit.
func (p findingPage) QRPath() string {
	var b strings.Builder
	for y, line := range p.QR {
		for x, dark := range line {
			if dark {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	return b.String()
}

// findingPicture adds a picture of the newest capture, if there is one: the difference to the
// previous one, or the kilovolts of each cylinder.
func (s *Pages) findingPicture(r *http.Request, it jobs.Loaded, p *findingPage) error {
	list, err := s.Jobs.Captures(r.Context(), it.Record.Job.Number)
	if err != nil {
		return err
	}
	kept := list[:0:0]
	for _, c := range list {
		if !c.Removed {
			kept = append(kept, c)
		}
	}
	if len(kept) == 0 {
		return nil
	}
	kind := "bars"
	if len(kept) > 1 {
		kind = "compare"
	}
	q := r.Clone(r.Context())
	q.URL.RawQuery = url.Values{"picture": {kind}}.Encode()
	v, err := s.ChosenCapture(q, it, kept, kept[len(kept)-1], p.At, &invalid.Errors{})
	if err != nil {
		return err
	}
	p.Picture = v.Picture
	p.Shown = append(p.Shown, v.Changed...)
	if kind == "bars" {
		p.Shown = append(p.Shown, v.Abnormal...)
	}
	return nil
}
