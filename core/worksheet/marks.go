package worksheet

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/job"
)

// StepOff is the step under which is recorded what came off, and bolts that were lost.
const StepOff = "remove.off"

// back is the id of the step that puts something back that came off.
func back(n int) string { return fmt.Sprintf("refit.back-%d", n) }

// marked applies the marks of the job to the steps: things that came off get a step of their own, then
// ticks, measurements and the order.
func (b *builder) marked() ([]Step, []Item) {
	var items []Item
	for _, m := range b.Job.Worksheet {
		if m.Do == job.CameOff || m.Do == job.Lost {
			items = append(items, Item{N: m.N, Words: m.Value, Photo: m.Photo, Lost: m.Do == job.Lost})
		}
	}
	b.itemSteps(items)
	at := map[string]int{}
	for i, s := range b.steps {
		at[s.ID] = i
	}
	for _, m := range b.Job.Worksheet {
		i, ok := at[m.Step]
		if !ok {
			continue
		}
		s := &b.steps[i].State
		s.Mark, s.By = m.N, m.By
		switch m.Do {
		case job.Ticked:
			s.Done, s.Skipped, s.Reason = true, false, ""
		case job.Unticked:
			s.Done, s.Skipped, s.Reason = false, false, ""
		case job.Skipped:
			s.Done, s.Skipped, s.Reason = false, true, m.Reason
		}
		if m.Value != "" && (m.Do == job.Measured || m.Do == job.Ticked) {
			s.Measured, s.Says, s.Bad = m.Value, "", false
			if ask := b.steps[i].Ask; ask != nil {
				s.Says, s.Bad, _ = ask.Judge(m.Value, b.steps[i].Figure)
			}
		}
	}
	b.evenness()
	for i := range items {
		if k, ok := at[back(items[i].N)]; ok {
			items[i].Back = b.steps[k].State.Done
		}
	}
	return b.ordered(), items
}

// itemSteps adds the list of what came off, and a step for each thing that goes back.
func (b *builder) itemSteps(items []Item) {
	off := Step{ID: StepOff, Phase: Remove, Target: engine.Whole, Title: "List what came off", Do: "List each hose, sensor, bracket, vacuum line and bolt as it comes off. Note a bolt that was lost or replaced. Tick this when everything is listed.",
		Why: "What is listed comes back as a step of its own.", Minutes: 2}
	first := slices.IndexFunc(b.steps, func(s Step) bool { return s.Phase != Prepare })
	if first < 0 {
		first = len(b.steps)
	}
	b.steps = slices.Insert(b.steps, first, off)
	start := slices.IndexFunc(b.steps, func(s Step) bool { return s.ID == "refit.start" })
	if start < 0 {
		start = len(b.steps)
	}
	var backs []Step
	for _, item := range items {
		s := Step{ID: back(item.N), Phase: Refit, Target: engine.Whole, Title: "Put back: " + item.Words, Do: "Put it back where it came from, and push or screw it home.", Why: "It was listed as it came off.", Minutes: 1}
		if item.Lost {
			s.Title, s.Do, s.Why = "Found or replaced: "+item.Words, "Find it before the engine runs, or fit one of the same length, thread and grade. Look into ports and wells.", "A lost bolt can lie in the intake, and a longer one cracks what it is screwed into."
		}
		backs = append(backs, s)
	}
	b.steps = slices.Insert(b.steps, start, backs...)
}

// evenness judges the gaps of a set, once two of them are measured.
func (b *builder) evenness() {
	low, high, n := 0.0, 0.0, 0
	for _, s := range b.steps {
		if s.Phase != Gap || s.Ask == nil || s.Ask.Of != AskGap || s.State.Measured == "" {
			continue
		}
		gap, ok := gapOf(s.State.Measured)
		if !ok {
			continue
		}
		if n == 0 {
			low, high = gap, gap
		}
		low, high = min(low, gap), max(high, gap)
		n++
	}
	for i := range b.steps {
		if s := &b.steps[i]; s.ID == "gap.even" && n > 1 {
			s.State.Measured = fmt.Sprintf("%s to %s, %d plugs", mm(low), mm(high), n)
			s.State.Says, s.State.Bad, _ = inRange(high-low, s.Figure)
			if s.State.Bad {
				s.State.Says = "uneven: the set differs by " + mm(high-low)
			}
		}
	}
}

// ordered applies the moves of steps, each by one place.
func (b *builder) ordered() []Step {
	steps := slices.Clone(b.steps)
	for _, m := range b.Job.Worksheet {
		i := slices.IndexFunc(steps, func(s Step) bool { return s.ID == m.Step })
		switch {
		case i < 0:
		case m.Do == job.Earlier && i > 0:
			steps[i-1], steps[i] = steps[i], steps[i-1]
		case m.Do == job.Later && i < len(steps)-1:
			steps[i], steps[i+1] = steps[i+1], steps[i]
		}
	}
	return steps
}

// Check reads a mark against the sheet: the step must exist, and what was measured must be readable.
// seen is the number of the step's newest mark when the form was loaded; ErrMoved is returned if
// somebody has marked the step since.
func (s Sheet) Check(m job.Mark, seen int) error {
	if err := m.Check(); err != nil {
		return err
	}
	if school, ok := schoolOf(m.Step); ok {
		if m.Do != job.Chosen || school.Words(m.Value) == "" {
			return fieldError("value", "one of the schools of "+school.Ask, m.Value)
		}
		return nil
	}
	if tag, ok := strings.CutPrefix(m.Step, StepAlso); ok {
		if m.Do != job.Chosen || m.Value != "yes" && m.Value != "no" || !slices.ContainsFunc(s.Also, func(a Also) bool { return string(a.Tag) == tag }) {
			return fieldError("value", "yes or no, for a part that the verdict names", tag)
		}
		return nil
	}
	i := slices.IndexFunc(s.Steps, func(have Step) bool { return have.ID == m.Step })
	if i < 0 {
		return fieldError("step", "a step of this worksheet", m.Step)
	}
	if s.Steps[i].State.Mark != seen && m.Step != StepOff {
		return ErrMoved
	}
	if ask := s.Steps[i].Ask; ask != nil && m.Value != "" && (m.Do == job.Measured || m.Do == job.Ticked) {
		if _, _, err := ask.Judge(m.Value, s.Steps[i].Figure); err != nil {
			return under("value", err)
		}
	}
	return nil
}

// Next returns the index of the first open step, or -1 if none is open.
func (s Sheet) Next() int { return slices.IndexFunc(s.Steps, Step.Open) }

// Done returns how many steps are ticked, and how many there are without those that are skipped.
func (s Sheet) Done() (done, of int) {
	for _, step := range s.Steps {
		if step.State.Done {
			done++
		}
		if !step.State.Skipped {
			of++
		}
	}
	return done, of
}
