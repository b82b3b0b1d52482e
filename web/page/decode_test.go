package page

import (
	"net/url"
	"reflect"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

type needed struct {
	Rate float64         `form:"rate" required:"yes" expected:"what an hour costs"`
	Km   unit.Kilometres `form:"km" required:"yes"`
}

// What has to be there is asked for in the same words as what cannot be read.
func TestDecodeAsksForWhatIsRequired(t *testing.T) {
	_, km := unit.ParseDistance("")
	want := invalid.Errors{{Field: "rate", Expected: "what an hour costs", Got: invalid.Quote("")}}
	want.Under("km", km)
	if bad := Decode(url.Values{"km": {" "}}, &needed{}); !reflect.DeepEqual(bad, want) {
		t.Errorf("%v\nwant %v", bad, want)
	}
	got := needed{}
	if bad := Decode(url.Values{"rate": {"60"}, "km": {"1 200 km"}}, &got); len(bad) > 0 || got != (needed{60, 1200}) {
		t.Errorf("%+v, %v", got, bad)
	}
}

type sample struct {
	Name   string            `form:"name"`
	Kind   engine.Kind       `form:"kind"`
	Count  int               `form:"count" expected:"a count, 1 to 12"`
	Length float64           `form:"length"`
	Km     unit.Kilometres   `form:"km"`
	Life   *unit.Kilometres  `form:"life"`
	Order  []engine.Cylinder `form:"order"`
	Signs  []string          `form:"sign"`
	Over   List              `form:"over"`
	Uneven bool              `form:"uneven"`
}

func TestDecode(t *testing.T) {
	mile := unit.Kilometres(1.609344) // international mile, 1959
	for name, c := range map[string]struct {
		typed url.Values
		want  sample
		wrong map[string]string // what was expected, by field
	}{
		"nothing":          {url.Values{}, sample{}, map[string]string{}},
		"blanks":           {url.Values{"name": {"  "}, "count": {""}, "km": {" "}, "life": {""}, "uneven": {""}}, sample{}, map[string]string{}},
		"space around":     {url.Values{"name": {"  Wyn "}, "kind": {" coil "}, "count": {" 4 "}}, sample{Name: "Wyn", Kind: engine.Coil, Count: 4}, map[string]string{}},
		"comma and minus":  {url.Values{"length": {"−12,5"}}, sample{Length: -12.5}, map[string]string{}},
		"units":            {url.Values{"life": {"1000 mi"}}, sample{Life: new(1000 * mile)}, map[string]string{}},
		"order":            {url.Values{"order": {"1-3-4-2"}}, sample{Order: []engine.Cylinder{1, 3, 4, 2}}, map[string]string{}},
		"several":          {url.Values{"sign": {"a", "", "b"}}, sample{Signs: []string{"a", "b"}}, map[string]string{}},
		"the first":        {url.Values{"name": {"", "Wyn"}, "count": {"3", "4"}}, sample{Count: 3}, map[string]string{}},
		"list":             {url.Values{"over": {"1, 3 ,,5"}}, sample{Over: List{"1", "3", "5"}}, map[string]string{}},
		"ticked":           {url.Values{"uneven": {"yes"}}, sample{Uneven: true}, map[string]string{}},
		"said in the tag":  {url.Values{"count": {"four"}}, sample{}, map[string]string{"count": "a count, 1 to 12"}},
		"said by the type": {url.Values{"length": {"long"}}, sample{}, map[string]string{"length": "a number, such as 12.5"}},
		"names of others":  {url.Values{"name[3]": {"x"}, "[": {"x"}, "sign[99999999999]": {"x"}, "a.b": {"x"}}, sample{}, map[string]string{}},
	} {
		t.Run(name, func(t *testing.T) {
			var got sample
			wrong := map[string]string{}
			for _, e := range Decode(c.typed, &got) {
				wrong[e.Field] = e.Expected
			}
			if !reflect.DeepEqual(got, c.want) || !reflect.DeepEqual(wrong, c.wrong) {
				t.Errorf("got %+v, wrong %v\nwant %+v, wrong %v", got, wrong, c.want, c.wrong)
			}
		})
	}
}

// What is wrong in a row is named by the field of that row.
func TestDecodeRowNamesItsField(t *testing.T) {
	var got sample
	bad := DecodeRow(url.Values{"part-name-2": {"coil"}, "part-count-2": {"x"}, "part-name-1": {"plug"}}, "part", 2, &got)
	want := invalid.Errors{{Field: "part-count-2", Expected: "a count, 1 to 12", Got: "“x”"}}
	if got.Name != "coil" || !reflect.DeepEqual(bad, want) {
		t.Errorf("%+v, %v", got, bad)
	}
}
