// Package job is the record of one vehicle with one complaint: what came in,
// what engine it has, and the ledger of all that was found.
package job

import (
	"fmt"
	"regexp"
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Vehicle is what the workshop knows it by.
type Vehicle struct {
	// Fleet is the number painted on it, unique in the workshop.
	Fleet string `json:"fleet"`
	// What it is, in a few words, such as "post van, high roof".
	What   string        `json:"what"`
	Engine engine.Engine `json:"engine"`
	// Parts is what is known of the age and the design of its parts.
	Parts []part.Record `json:"parts,omitzero"`
}

// Validate returns an error for each invalid field.
func (v Vehicle) Validate() error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("fleet", v.Fleet, "the vehicle's number", MaxFleet, false))
	if reservedFleet[v.Fleet] {
		bad.Add("fleet", "a number that can be part of an address: not the word new, and not dots alone", v.Fleet)
	}
	bad.Under("", invalid.Text("what", v.What, "what the vehicle is", MaxWhat, false))
	if err := v.Engine.Validate(); err != nil {
		bad.Under("engine", err)
		return bad
	}
	bad.Under("parts", part.CheckRecords(v.Engine, v.Parts))
	return bad.Err()
}

// Job is one vehicle with one complaint.
type Job struct {
	// Number is the job's own number in its workshop, such as "2026-014".
	Number    string             `json:"number"`
	Vehicle   Vehicle            `json:"vehicle"`
	Distance  unit.Kilometres    `json:"distance_km"`
	Complaint string             `json:"complaint"`
	FailsWhen evidence.Condition `json:"fails_when,omitzero"`
	// Signs are circumstances of the complaint that shift suspicion.
	Signs []evidence.Sign `json:"signs,omitzero"`
	// Planned lists the kinds of part that are due in a visit without a misfire; empty for a complaint.
	Planned []engine.Kind `json:"planned,omitzero"`
	// School is by which order the next step is proposed.
	School School          `json:"school,omitzero"`
	Opened time.Time       `json:"opened"`
	By     string          `json:"by"`
	Ledger evidence.Ledger `json:"ledger"`
	// Worksheet is the record of the repair's worksheet, in order. A store that lists jobs leaves it
	// out.
	Worksheet []Mark `json:"worksheet,omitzero"`
}

// School is a way to choose the next step.
type School string

// The schools: by what saves most, or by the order in which the work is usually done.
const (
	Planned    School = ""
	UsualOrder School = "usual-order"
)

// Known reports whether the school exists.
func (s School) Known() bool { return s == Planned || s == UsualOrder }

// Bounds of the short texts of a job, in bytes.
const (
	MaxNumber = 40
	MaxFleet  = 24
	MaxWhat   = 80
)

// A vehicle's number is part of its address, beside the page for a new one; browsers take
// dots alone out of an address.
var reservedFleet = map[string]bool{"new": true, ".": true, "..": true}

// A job's number is part of its address, beside the pages that are reserved.
var (
	goodNumber = regexp.MustCompile(`^[0-9A-Za-z][0-9A-Za-z._-]{0,39}$`)
	reserved   = map[string]bool{"new": true, "import": true}
)

// Validate returns an error for each invalid field.
func (j Job) Validate() error {
	var bad invalid.Errors
	text := func(field, value, expected string, most int) {
		bad.Under("", invalid.Text(field, value, expected, most, false))
	}
	if !goodNumber.MatchString(j.Number) || reserved[j.Number] {
		bad.Add("number", fmt.Sprintf("the job's number: letters, digits, dots and dashes, at most %d", MaxNumber), invalid.Quote(j.Number))
	}
	text("complaint", j.Complaint, "what is wrong with it, in a few words", evidence.MaxText)
	text("by", j.By, "the name of who takes it in", evidence.MaxName)
	if j.Distance < 0 || j.Distance > unit.MaxDistance {
		bad.Add("distance_km", "0 to 5 000 000 km", fmt.Sprint(float64(j.Distance)))
	}
	for i, k := range j.Planned {
		if !slices.Contains(j.Vehicle.Engine.PartKinds(), k) || slices.Contains(j.Planned[:i], k) {
			bad.Add(fmt.Sprintf("planned[%d]", i), fmt.Sprintf("a kind of part that this engine has, once: %v", j.Vehicle.Engine.PartKinds()), invalid.Quote(string(k)))
		}
	}
	if !j.FailsWhen.Known() {
		bad.Add("fails_when", "idle, load, hot, cold, wet, snap or none", invalid.Quote(string(j.FailsWhen)))
	}
	if !j.School.Known() {
		bad.Add("school", "usual-order or none", invalid.Quote(string(j.School)))
	}
	if j.Opened.IsZero() {
		bad.Add("opened", "the time the job was opened", "none")
	}
	bad.Under("signs", evidence.CheckSigns(j.Signs))
	if j.FailsWhen != evidence.AnyCondition && slices.Contains(j.Signs, evidence.AlwaysThere) {
		bad.Add("signs", "a condition in which it fails, or that it is always there", "both")
	}
	bad.Under("vehicle", j.Vehicle.Validate())
	if j.Vehicle.Engine.Validate() != nil {
		return bad
	}
	bad.Under("ledger", j.Ledger.Validate(j.Vehicle.Engine))
	bad.Under("worksheet", checkMarks(j.Worksheet))
	return bad.Err()
}

// Signed is the verdict that stands, if one does.
func (j Job) Signed() (evidence.Entry, bool) {
	return j.Ledger.Signed()
}
