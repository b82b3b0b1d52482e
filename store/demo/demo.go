// Package demo is an invented world to try Glenmist in: the workshop of an
// upland bus, post and rescue co-operative. Vehicles and people are made up.
package demo

import (
	"context"
	"fmt"
	"time"

	"glenmist/core/catalogue"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/plug"
	"glenmist/core/trouble"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
	"glenmist/people"
	"glenmist/store"
)

// The people of the workshop.
const (
	lead       = "Oda Quillrigg"
	technician = "Bram Tarnside"
	apprentice = "Wyn Fellgarth"
)

// Staff are the people of the demo. They have no password: the demo signs in by one tap.
var Staff = []struct {
	Name string
	Role people.Role
}{{lead, people.Administrator}, {technician, people.Technician}, {apprentice, people.Apprentice}}

// staff adds the people, if nobody is known.
func staff(ctx context.Context, s *store.Store) error {
	if known, err := s.Anybody(ctx); err != nil || known {
		return err
	}
	for _, p := range Staff {
		if _, err := s.AddPerson(ctx, p.Name, p.Role, ""); err != nil {
			return err
		}
	}
	return nil
}

// Load writes the demo's people and jobs into an empty database, dated back from now. It
// leaves a database that holds any job alone, and says whether it loaded.
func Load(ctx context.Context, s *store.Store, now time.Time) (bool, error) {
	ctx = store.WithActor(ctx, store.Actor{Name: "the demo"})
	if err := staff(ctx, s); err != nil {
		return false, err
	}
	have, _, err := s.Find(ctx, store.Query{})
	if err != nil || len(have) > 0 {
		return false, err
	}
	jobs, err := Jobs(now)
	if err != nil {
		return false, err
	}
	if err := s.SaveItems(ctx, parts); err != nil {
		return false, err
	}
	for _, j := range jobs {
		j.Number = ""
		number, err := s.Open(ctx, j)
		if err == nil && j.Vehicle.Fleet == recorded.fleet {
			err = captures(ctx, s, number, j)
		}
		if err != nil {
			return false, fmt.Errorf("demo job of %s: %w", j.Vehicle.Fleet, err)
		}
	}
	return true, nil
}

// parts is the workshop's catalogue.
var parts = []catalogue.Item{
	{Kind: engine.Plug, Price: 9.5, Make: part.Make{Number: "UP-6R", LifeKm: 60_000, LifeYears: 4, Plug: &part.PlugDesign{Electrode: "nickel", Seat: "gasket", ThreadMM: 14, ReachMM: 19, HexMM: 16, HeatRange: "6",
		Resistor: "yes", ResistorOhms: 5000, Finish: "bright", GapLow: 0.8, GapHigh: 0.9}}},
	{Kind: engine.Plug, Price: 18, Make: part.Make{Number: "UP-7F", LifeKm: 120_000, LifeYears: 10, Plug: &part.PlugDesign{Electrode: "fine-wire", Seat: "gasket", ThreadMM: 14, ReachMM: 19, HexMM: 16, HeatRange: "6",
		Resistor: "yes", ResistorOhms: 5000, Finish: "bright", GapLow: 1, GapHigh: 1.1}}},
	{Kind: engine.Coil, Fits: []string{"B-21", "P-07"}, Price: 74, Make: part.Make{Number: "UC-31", LifeKm: 250_000, Coil: &part.CoilDesign{Pins: 3, Tab: "left", StemMM: 132}}},
	{Kind: engine.Boot, Fits: []string{"B-21"}, Price: 11, Make: part.Make{Number: "UB-31"}},
}

func inline(n int, mounting engine.Mounting, beltEnd engine.Side) engine.Engine {
	return engine.Engine{Cylinders: n, Arrangement: engine.Inline, Mounting: mounting, BeltEnd: beltEnd, Wires: 3,
		Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(engine.Inline, n, "")}
}

func shelf(id string) engine.Engine {
	p, _ := engine.FindPattern(id)
	return p.Engine()
}

func km(k unit.Kilometres) *unit.Kilometres { return &k }

func figure(v float64) *float64 { return &v }

// plugs is a set of plugs fitted at a distance and on a day.
func plugs(number string, at unit.Kilometres, on string, electrode part.Electrode, life unit.Kilometres, years float64) part.Record {
	return part.Record{Kind: engine.Plug, Number: number, FittedKm: km(at), FittedOn: on, LifeKm: life, LifeYears: years,
		Plug: &part.PlugDesign{Electrode: electrode, Seat: "gasket", ThreadMM: 14, ReachMM: 19, HeatRange: "6", Resistor: "yes"}}
}

// intake is a new job with its later findings.
type intake struct {
	fleet, what string
	engine      engine.Engine
	parts       []part.Record
	distance    unit.Kilometres
	complaint   string
	failsWhen   evidence.Condition
	signs       []evidence.Sign
	by          string
	daysAgo     int
	found       []evidence.Entry
}

// planned lists the kinds of part that are due in the visits without a misfire, by vehicle.
var planned = map[string][]engine.Kind{"P-16": {engine.Plug}}

// The jobs in the order in which they came in: the last is the newest.
var intakes = []intake{
	{"B-03", "valley bus, 16 seats", inline(6, engine.Lengthways, engine.Front), nil, 311_400,
		"Shudders when pulling away from the lower stops, lamp on since the washing bay.", evidence.Load, nil, technician, 10, []evidence.Entry{
			codes("P0305", trouble.Stored, "P0300", trouble.Pending),
			counters(evidence.Load, 4000, 2, 0, 1, 0, 188, 0),
			swap("cyl-5", "cyl-1", engine.Coil, engine.Boot),
			counters(evidence.Load, 4200, 203, 0, 0, 1, 1, 0),
			look("P5", evidence.PlugNormal, "B5", evidence.BootSound),
			sign(),
		}},
	{"R-02", "rescue pick-up", inline(4, engine.Lengthways, engine.Front), nil, 142_050,
		"Shook once on the pass in heavy rain, lamp flashed, then ran well again.", evidence.Wet, []evidence.Sign{evidence.LampFlashing}, lead, 9, []evidence.Entry{
			codes("P0303", trouble.Stored),
			swap("cyl-3", "cyl-1", engine.Coil, engine.Boot),
			counters(evidence.Idle, 3600, 0, 1, 0, 0),
		}},
	{"P-11", "post van, low roof", inline(3, engine.Crossways, engine.Right), nil, 88_900,
		"Uneven at idle when warm, dull on the hill to the dam.", evidence.Idle, nil, technician, 8, []evidence.Entry{
			codes("P0301", trouble.Stored),
			counters(evidence.Idle, 3500, 121, 0, 2),
			swap("cyl-1", "cyl-3", engine.Coil, engine.Boot),
			counters(evidence.Idle, 3500, 117, 1, 0),
		}},
	{"P-04", "post van, high roof", inline(4, engine.Crossways, engine.Left), nil, 203_700,
		"Jerks under load since the last service, smells of fuel.", evidence.Load, nil, apprentice, 7, []evidence.Entry{
			codes("P0304", trouble.Stored),
			counters(evidence.Load, 3000, 1, 0, 0, 96),
			swap("cyl-4", "cyl-2", engine.Coil, engine.Boot),
			counters(evidence.Load, 3000, 0, 102, 0, 1),
		}},
	{"S-01", "snow patrol car", inline(5, engine.Crossways, engine.Left), nil, 167_300,
		"Shakes on cold starts, settles after a mile.", evidence.Cold, nil, lead, 6, []evidence.Entry{
			codes("P0302", trouble.Pending),
			counters(evidence.Cold, 2400, 0, 61, 1, 0, 0),
			swap("cyl-2", "cyl-4", engine.Coil, engine.Boot),
		}},
	{"P-07", "post van, high roof", inline(4, engine.Crossways, engine.Left),
		[]part.Record{plugs("UP-6R", 121_000, "2022-04-11", "nickel", 60_000, 4), {Kind: engine.Coil, Number: "UC-31", FittedKm: km(0), FittedOn: "2015-03-02", Pins: 3}}, 184_000,
		"Shakes at idle and pulls badly, lamp on since Tuesday.", evidence.Idle, []evidence.Sign{evidence.LampSteady}, apprentice, 5, []evidence.Entry{
			codes("P0302", trouble.Stored),
		}},
	{"B-09", "school minibus", inline(4, engine.Lengthways, engine.Front), nil, 96_250,
		"Driver feels a light shake at the lights. No lamp.", evidence.Idle, []evidence.Sign{evidence.LampOff}, apprentice, 4, nil},

	{"C-05", "co-operative's long car", shelf("v6-across"), []part.Record{plugs("UP-7F", 30_000, "2019-06-18", "fine-wire", 120_000, 10)}, 128_600,
		"Hesitates when it joins the valley road with the trailer on. Lamp on, steady.", evidence.Load, []evidence.Sign{evidence.LampSteady}, technician, 3, []evidence.Entry{
			frame(codes("P0305", trouble.Stored, "P0300", trouble.Pending), trouble.Frame{RPM: figure(2140), Load: figure(81.2), Coolant: figure(88), Speed: figure(62),
				Trims: []trouble.Trim{{Bank: 1, Short: 1.6, Long: 4.7}, {Bank: 2, Short: 0.8, Long: 1.6}}}),
			counters(evidence.Load, 3800, 0, 1, 0, 2, 74, 0),
			{Body: &evidence.Covers{Off: []string{"engine cover", "intake plenum"}}},
		}},
	{"B-14", "ridge bus, 30 seats", shelf("v8-leads"), []part.Record{plugs("UP-5L", 402_000, "2023-08-30", "nickel", 40_000, 4)}, 455_900,
		"Stutters on the level after the long descent, once the engine is hot.", evidence.Hot, []evidence.Sign{evidence.AfterJolt}, lead, 3, []evidence.Entry{
			codes("P0307", trouble.Stored),
			counters(evidence.Hot, 4000, 0, 1, 0, 0, 0, 2, 143, 0),
			splitMove("cyl-7", "cyl-4", engine.Coil, "cyl-2", engine.Plug),
			counters(evidence.Hot, 4000, 1, 0, 0, 0, 1, 0, 139, 0),
		}},
	{"R-05", "rescue car", shelf("flat-four"), nil, 74_300,
		"Loses breath above the tree line after an hour on the road.", evidence.Hot, nil, technician, 2, []evidence.Entry{
			codes("P0302", trouble.Pending),
			counters(evidence.Hot, 2800, 1, 58, 0, 0),
			{Body: &evidence.Covers{Off: []string{"air box"}}},
			swap("cyl-2", "cyl-4", engine.Coil, engine.Boot),
		}},
	{"B-07", "dale bus, 22 seats", shelf("six-pairs"), nil, 266_000,
		"Runs on four when hot.", evidence.Hot, []evidence.Sign{evidence.LampFlashing}, technician, 2, []evidence.Entry{
			codes("P0302", trouble.Stored, "P0305", trouble.Stored),
			counters(evidence.Hot, 3200, 1, 131, 0, 0, 124, 2),
			swap("coil-B", "coil-A", engine.Coil),
			counters(evidence.Hot, 3200, 138, 0, 1, 0, 0, 119),
		}},
	{"F-02", "feed lorry", shelf("six-distributor"), nil, 391_500,
		"Kicks back while cranking after a night outside, then runs on five for a mile.", evidence.Cold, []evidence.Sign{evidence.LongSince}, lead, 1, []evidence.Entry{
			watch(evidence.Cold, 6),
			look("DA", evidence.CapCorroded, "RA", evidence.RotorSound),
		}},
	{"G-01", "pump on the rescue trailer", shelf("single-magneto"), nil, 0,
		"Starts badly and dies under load.", evidence.Load, []evidence.Sign{evidence.HardStart}, apprentice, 1, []evidence.Entry{
			watch(evidence.Load, 1),
			spare("P1", "PS1"),
			watch(evidence.Load),
		}},
	{"M-01", "moor bike", shelf("single-remote"), nil, 41_200,
		"Cuts out in the rain.", evidence.Wet, nil, technician, 0, []evidence.Entry{
			watch(evidence.Wet, 1),
		}},
	{"R-01", "command car of the rescue", shelf("v12-along"), nil, 59_800,
		"Shakes lightly on the motorway, then the lamp comes on.", evidence.Load, nil, lead, 0, []evidence.Entry{
			codes("P0309", trouble.Pending, "P0300", trouble.Pending),
		}},
	{"F-05", "hay lorry", shelf("six-distributor"), nil, 288_300,
		"Misses on one cylinder, worst uphill.", evidence.Load, nil, apprentice, 0, []evidence.Entry{
			watch(evidence.Load, 4),
			{Body: &evidence.Readings{Measure: evidence.LeadOhms, Make: "carbon-core", Each: []evidence.Reading{
				lead1("L1", 6200, 500), lead1("L2", 5900, 470), lead1("L3", 5400, 420), {Tag: "L4", Over: true, Millimetres: 400, Jumps: true}, lead1("L5", 4800, 380), lead1("L6", 4100, 330)}}},
			{Body: &evidence.Sparks{Tester: "opened-plug", GapMM: 7, From: engine.Boot, AirKPa: 91.6, AirCelsius: 8, Each: []evidence.Sparked{{Place: "cyl-3", Seen: "strong"}, {Place: "cyl-4", Seen: "intermittent"}}}},
		}},
	{"T-03", "timber crane carrier", inline(4, engine.Lengthways, engine.Front), nil, 176_200,
		"Runs on three since the harness was spliced.", evidence.Idle, []evidence.Sign{evidence.LampSteady}, technician, 0, []evidence.Entry{
			codes("P0303", trouble.Stored),
			counters(evidence.Idle, 3000, 0, 1, 1460, 0),
			swap("cyl-3", "cyl-1", engine.Coil, engine.Boot),
			counters(evidence.Idle, 3000, 1, 0, 1455, 0),
			{Body: &evidence.Check{Test: evidence.Spark, Place: "cyl-3", Result: "none"}},
			{Body: &evidence.Readings{Measure: evidence.FeedDrop, Each: []evidence.Reading{{Place: "cyl-3", Figures: []float64{12.3, 12.1}}}}},
			{Body: &evidence.Readings{Measure: evidence.GroundDrop, Each: []evidence.Reading{{Place: "cyl-3", Figures: []float64{0.06}}}}},
			{Body: &evidence.Check{Test: evidence.TriggerPulse, Place: "cyl-3", Result: "missing"}},
		}},
	{"L-06", "lime lorry", shelf("six-distributor"), nil, 334_800,
		"Jerks on one cylinder, more so on a pull.", evidence.Load, nil, apprentice, 0, []evidence.Entry{
			watch(evidence.Load, 4),
			{Body: &evidence.Move{Cleared: true, Parts: exchange("cyl-4", "cyl-2", engine.Lead)}},
		}},
	{"C-08", "coach of the upper valley", shelf("v6-across"), []part.Record{plugs("GF-6R", 118_000, "2024-03-12", "nickel", 60_000, 4)}, 171_400,
		"Shakes and smokes blue after long idling at the depot; lamp on.", evidence.Idle, []evidence.Sign{evidence.LampSteady}, technician, 0, []evidence.Entry{
			codes("P0301", trouble.Stored),
			counters(evidence.Idle, 4000, 212, 1, 0, 0, 1, 0),
			cloth(evidence.RanDriven, plug.Range{Low: 0.8, High: 0.9}, []plug.Look{
				{Nose: plug.Black, Deposit: plug.Ash, Wet: plug.Oil, Edges: plug.Rounded, Strap: plug.Straight, Insulator: plug.Whole, High: plug.Dry, Hold: plug.Tight, Gasket: plug.Crushed, GapMM: 0.97},
				{Nose: plug.Grey, Deposit: plug.Clean, Wet: plug.Dry, Edges: plug.Rounded, Strap: plug.Straight, Insulator: plug.Whole, Ring: plug.Ring, High: plug.Dry, Hold: plug.Tight, Gasket: plug.Crushed, GapMM: 0.93},
				{Nose: plug.Tan, Deposit: plug.Clean, Wet: plug.Dry, Edges: plug.Rounded, Strap: plug.Straight, Insulator: plug.Whole, High: plug.Dry, Hold: plug.Tight, Gasket: plug.Crushed, GapMM: 0.96},
				{Nose: plug.Tan, Deposit: plug.Clean, Wet: plug.Dry, Edges: plug.Rounded, Strap: plug.Straight, Insulator: plug.Whole, High: plug.Dry, Hold: plug.Tight, Gasket: plug.Crushed, GapMM: 0.95},
				{Nose: plug.Pale, Deposit: plug.Clean, Wet: plug.Dry, Edges: plug.Rounded, Strap: plug.Straight, Insulator: plug.Whole, High: plug.Dry, Hold: plug.Tight, Gasket: plug.Crushed, GapMM: 0.94},
				{Nose: plug.Tan, Deposit: plug.Ash, Wet: plug.Dry, Edges: plug.Rounded, Strap: plug.Straight, Insulator: plug.Whole, High: plug.Oil, Hold: plug.Tight, Gasket: plug.Crushed, GapMM: 0.95},
			}, evidence.Seen{Tag: "B1", Finding: evidence.BootSound}, evidence.Seen{Tag: "B6", Finding: evidence.BootWet}),
		}},
	{fleet: "B-21", what: "dam shuttle, 19 seats", engine: shelf("v6-across"), parts: []part.Record{plugs("UP-7F", 96_000, "2021-05-20", "fine-wire", 120_000, 10),
		{Kind: engine.Coil, Number: "UC-31", FittedKm: km(0), FittedOn: "2014-08-01", LifeKm: 250_000, Pins: 3}}, distance: 203_900,
		complaint: "Bucks on the ramp of the dam with the bus full. Lamp on, steady.", failsWhen: evidence.Load, signs: []evidence.Sign{evidence.LampSteady}, by: technician, daysAgo: 1, found: []evidence.Entry{
			codes("P0303", trouble.Stored),
			counters(evidence.Load, 4000, 1, 0, 167, 0, 2, 0),
			{Body: &evidence.Covers{Off: []string{"engine cover", "intake plenum"}}},
			swap("cyl-3", "cyl-1", engine.Coil, engine.Boot),
			counters(evidence.Load, 4000, 171, 0, 1, 0, 0, 1),
			look("P3", evidence.PlugNormal, "B3", evidence.BootSound),
			sign(),
		}},
	{fleet: "F-08", what: "peat lorry", engine: turned(shelf("six-distributor")), distance: 301_700,
		complaint: "No pull and hot exhaust since the distributor was out.", failsWhen: evidence.Load, signs: []evidence.Sign{evidence.AfterService}, by: lead, daysAgo: 1, found: []evidence.Entry{
			watch(evidence.Load, 1, 2, 3, 4, 5, 6),
			{Body: &evidence.Check{Test: evidence.LeadRouting, Place: engine.Whole, Result: "right"}},
			{Body: &evidence.Readings{Measure: evidence.BaseTiming, Maker: &evidence.Range{Low: 6, High: 8}, Each: []evidence.Reading{{Place: engine.Whole, Figures: []float64{-4}}}}},
			{Body: &evidence.Check{Test: evidence.FuelPressure, Place: engine.Whole, Result: "in-range"}},
			look("DA", evidence.CapSound, "RA", evidence.RotorSound),
			sign(),
		}},
	{fleet: "P-16", what: "parcel van, long", engine: inline(4, engine.Crossways, engine.Left), parts: []part.Record{plugs("UP-6R", 90_000, "2021-11-15", "nickel", 60_000, 4)}, distance: 151_300,
		complaint: "Planned work: plugs are due.", by: apprentice, daysAgo: 0},
	{fleet: "B-31", what: "tarn bus, 20 seats", engine: inline(4, engine.Lengthways, engine.Front), parts: []part.Record{plugs("UP-6R", 61_000, "2019-02-11", "nickel", 60_000, 4)}, distance: 166_800,
		complaint: "Stumbles on every climb with the seats full.", failsWhen: evidence.Load, signs: []evidence.Sign{evidence.LampSteady, evidence.LongSince}, by: apprentice, daysAgo: 0, found: []evidence.Entry{
			codes("P0301", trouble.Pending, "P0303", trouble.Stored),
			counters(evidence.Load, 4000, 74, 21, 103, 28),
			look("P1", evidence.PlugWorn, "P3", evidence.PlugWorn),
		}},
	{fleet: "P-18", what: "post van, high roof", engine: inline(4, engine.Crossways, engine.Left), distance: 98_400,
		complaint: "Shakes at the lights since the cover was off.", failsWhen: evidence.Idle, signs: []evidence.Sign{evidence.LampSteady}, by: technician, daysAgo: 0, found: []evidence.Entry{
			codes("P0302", trouble.Stored),
			counters(evidence.Idle, 3000, 1, 190, 0, 0),
			swap("cyl-2", "cyl-4", engine.Coil),
			counters(evidence.Idle, 3000, 0, 0, 1, 185),
			{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: "C2", To: "cyl-2"}, {Tag: "C4", To: "cyl-4"}}}},
			counters(evidence.Idle, 3000, 0, 1, 0, 178),
		}},
	{fleet: "G-04", what: "mixer of the path gang", engine: shelf("single-magneto"), complaint: "Dead since it was hosed down.", failsWhen: evidence.Idle, by: apprentice, daysAgo: 0, found: []evidence.Entry{
		watch(evidence.Idle, 1),
		{Body: &evidence.Check{Test: evidence.Spark, Place: "cyl-1", Result: "none"}},
		{Certainty: evidence.ThinkSo, Body: &evidence.Check{Test: evidence.StopWireOff, Place: engine.Whole, Result: "sparks"}},
	}},
	{fleet: "S-04", what: "snow car of the pass", engine: inline(4, engine.Crossways, engine.Left), distance: 143_900, complaint: "Rattled on the climb, then ran on three.", failsWhen: evidence.Load,
		signs: []evidence.Sign{evidence.LampFlashing}, by: lead, daysAgo: 0, found: []evidence.Entry{
			codes("P0303", trouble.Stored),
			counters(evidence.Load, 2000, 1, 0, 880, 0),
			{Body: &evidence.Danger{Of: evidence.PieceMissing, Tag: "P3"}},
		}},
}

// turned is an engine with what the maker states of its distributor.
func turned(e engine.Engine) engine.Engine {
	for _, spec := range []engine.Spec{{Of: engine.BaseTiming, Low: 6, High: 8}, {Of: worksheet.SpecIdleSpeed, Low: 600, High: 700}, {Of: worksheet.SpecGearTeeth, Low: 13, High: 13}, {Of: worksheet.SpecPulley, Low: 150, High: 150}} {
		e = e.WithSpec(spec)
	}
	return e
}

// cloth is a set of old plugs as read, with the parts that sat on some of them.
func cloth(ran evidence.Ran, gap plug.Range, looks []plug.Look, boots ...evidence.Seen) evidence.Entry {
	l := &evidence.Look{Ran: ran, Gap: &gap}
	for i, of := range looks {
		l.Items = append(l.Items, l.Read(part.Of(engine.Plug, engine.At(engine.Cylinder(i+1))), of))
	}
	l.Items = append(l.Items, boots...)
	return evidence.Entry{Body: l}
}

// lead1 is the reading of a lead in ohms with its length in millimetres.
func lead1(tag part.Tag, ohms, mm float64) evidence.Reading {
	return evidence.Reading{Tag: tag, Figures: []float64{ohms}, Millimetres: mm}
}

// Jobs returns the demo jobs as they stand at a time.
func Jobs(now time.Time) ([]job.Job, error) {
	var jobs []job.Job
	for i, in := range intakes {
		opened := now.UTC().Truncate(time.Minute).Add(-time.Duration(in.daysAgo)*24*time.Hour - time.Hour)
		j := job.Job{Number: fmt.Sprintf("demo-%d", i+1), Vehicle: job.Vehicle{Fleet: in.fleet, What: in.what, Engine: in.engine, Parts: in.parts},
			Distance: in.distance, Complaint: in.complaint, FailsWhen: in.failsWhen, Signs: in.signs, Planned: planned[in.fleet], Opened: opened, By: in.by, Ledger: evidence.Ledger{}}
		for k, e := range in.found {
			e.Done, e.By = opened.Add(time.Duration(8*(k+1))*time.Minute), in.by
			if e.Verdict() != nil {
				signed, err := plan.For(j, diagnose.Assess(j)).Sign()
				if err != nil {
					return nil, fmt.Errorf("demo job of %s: %w", in.fleet, err)
				}
				e.Body = signed.Verdict()
			}
			longer, err := j.Ledger.Add(in.engine, e)
			if err != nil {
				return nil, fmt.Errorf("demo job of %s: %w", in.fleet, err)
			}
			j.Ledger = longer
		}
		jobs = append(jobs, j)
	}
	return jobs, nil
}

func codes(pairs ...any) evidence.Entry {
	c := &evidence.Codes{}
	for i := 0; i+1 < len(pairs); i += 2 {
		code, _ := trouble.Parse(pairs[i].(string))
		c.Read = append(c.Read, trouble.Reading{Code: code, State: pairs[i+1].(trouble.State)})
	}
	return evidence.Entry{Body: c}
}

func counters(when evidence.Condition, revolutions int, counts ...int) evidence.Entry {
	return evidence.Entry{Condition: when, Body: &evidence.Counters{Revolutions: revolutions, Counts: counts, Fresh: true}}
}

func frame(e evidence.Entry, f trouble.Frame) evidence.Entry {
	e.Codes().Frame = &f
	return e
}

func watch(when evidence.Condition, cylinders ...engine.Cylinder) evidence.Entry {
	return evidence.Entry{Condition: when, Body: &evidence.Watch{Cylinders: append([]engine.Cylinder{}, cylinders...)}}
}

// exchange returns the relocations that swap parts at home.
func exchange(a, b engine.Place, kinds ...engine.Kind) []part.Relocation {
	var parts []part.Relocation
	for _, k := range kinds {
		parts = append(parts, part.Relocation{Tag: part.Of(k, a), To: b}, part.Relocation{Tag: part.Of(k, b), To: a})
	}
	return parts
}

func swap(a, b engine.Place, kinds ...engine.Kind) evidence.Entry {
	return evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: exchange(a, b, kinds...)}}
}

// splitMove moves one kind of part from a place to b and another to c.
func splitMove(from, b engine.Place, first engine.Kind, c engine.Place, second engine.Kind) evidence.Entry {
	return evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: append(exchange(from, b, first), exchange(from, c, second)...)}}
}

// spare replaces a part by a known-good one.
func spare(out, in part.Tag) evidence.Entry {
	return evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: out, To: engine.Bench}, {Tag: in, To: out.Home()}}}}
}

func look(pairs ...any) evidence.Entry {
	l := &evidence.Look{}
	for i := 0; i < len(pairs); i += 2 {
		l.Items = append(l.Items, evidence.Seen{Tag: part.Tag(pairs[i].(string)), Finding: pairs[i+1].(evidence.Finding)})
	}
	return evidence.Entry{Body: l}
}

// sign asks Jobs to sign the verdict that is reached by then.
func sign() evidence.Entry { return evidence.Entry{Body: &evidence.Verdict{}} }
