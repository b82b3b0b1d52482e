package job

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
)

// Mark is one line of the record of a worksheet: a step that was done, skipped, measured or moved, or
// something that came off. Marks are appended. The newest mark of a step counts.
type Mark struct {
	// N numbers the marks of a job from 1.
	N int `json:"n"`
	// Step is the id of the step.
	Step string `json:"step"`
	Do   Do     `json:"do"`
	// Value is what was measured, what came off, or the school that was chosen.
	Value string `json:"value,omitzero"`
	// Reason states why a step was skipped.
	Reason string `json:"reason,omitzero"`
	// Photo is the number of a photo of the job; 0 means none.
	Photo int       `json:"photo,omitzero"`
	Done  time.Time `json:"done"`
	By    string    `json:"by"`
}

// Do is what a mark says of its step.
type Do string

// What a mark says.
const (
	Ticked   Do = "ticked"
	Unticked Do = "unticked"
	Skipped  Do = "skipped"
	Measured Do = "measured"
	Earlier  Do = "earlier" // one place earlier in the order
	Later    Do = "later"   // one place later
	CameOff  Do = "came-off"
	Lost     Do = "lost" // a bolt or clip was lost or replaced
	Chosen   Do = "chosen"
)

var dos = []Do{Ticked, Unticked, Skipped, Measured, Earlier, Later, CameOff, Lost, Chosen}

// Bounds of the marks of a job.
const (
	MaxMarks     = 2000
	MaxMarkValue = 120
)

var goodStep = regexp.MustCompile(`^[a-z][a-z0-9.@:A-Z-]{0,59}$`)

// Check returns an error for each invalid field.
func (m Mark) Check() error {
	var bad invalid.Errors
	if !goodStep.MatchString(m.Step) {
		bad.Add("step", "a step of the worksheet, such as torque.plug@cyl-4", invalid.Quote(m.Step))
	}
	if !slices.Contains(dos, m.Do) {
		bad.Add("do", fmt.Sprintf("one of %v", dos), invalid.Quote(string(m.Do)))
	}
	if m.Done.IsZero() {
		bad.Add("done", "the time it was done", "none")
	}
	bad.Under("", invalid.Text("by", m.By, "the name of who did it", evidence.MaxName, false))
	bad.Under("", invalid.Text("value", m.Value, "what was measured or what came off", MaxMarkValue, true))
	bad.Under("", invalid.Text("reason", m.Reason, "why, in a few words", evidence.MaxText, true))
	value := strings.TrimSpace(m.Value) == ""
	switch {
	case m.Do == Skipped && strings.TrimSpace(m.Reason) == "":
		bad.Add("reason", "why the step is skipped, in a few words", "nothing")
	case m.Do == Measured && value:
		bad.Add("value", "what was measured", "nothing")
	case (m.Do == CameOff || m.Do == Lost) && value:
		bad.Add("value", "what it is, such as: vacuum hose at the throttle", "nothing")
	case m.Do == Chosen && value:
		bad.Add("value", "one of the schools", "nothing")
	}
	if m.Photo < 0 || m.Photo > 60 {
		bad.Add("photo", "the number of a photo of this job", fmt.Sprint(m.Photo))
	}
	return bad.Err()
}

// checkMarks checks the marks of a job from outside.
func checkMarks(marks []Mark) error {
	var bad invalid.Errors
	if len(marks) > MaxMarks {
		bad.Add("", fmt.Sprintf("at most %d marks", MaxMarks), fmt.Sprint(len(marks)))
		return bad
	}
	for i, m := range marks {
		path := fmt.Sprintf("[%d]", i)
		if m.N != i+1 {
			bad.Add(path+".n", fmt.Sprintf("%d, counting from 1", i+1), fmt.Sprint(m.N))
		}
		bad.Under(path, m.Check())
	}
	return bad.Err()
}
