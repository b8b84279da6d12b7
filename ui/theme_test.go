package ui

import (
	"encoding/json"
	"math"
	"os"
	"strconv"
	"testing"
)

// luminance and contrast follow the WCAG 2.2 definitions of relative luminance
// and contrast ratio.
func luminance(t *testing.T, hex string) float64 {
	t.Helper()
	v, err := strconv.ParseUint(hex[1:], 16, 32)
	if err != nil || len(hex) != 7 {
		t.Fatalf("colour %q", hex)
	}
	channel := func(shift uint) float64 {
		c := float64(v>>shift&0xff) / 255
		if c <= 0.04045 {
			return c / 12.92
		}
		return math.Pow((c+0.055)/1.055, 2.4)
	}
	return 0.2126*channel(16) + 0.7152*channel(8) + 0.0722*channel(0)
}

func contrast(t *testing.T, a, b string) float64 {
	x, y := luminance(t, a), luminance(t, b)
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

func TestContrast(t *testing.T) {
	// Checks of the formula itself: black on white is 21:1; #767676 on white is
	// the well-known grey that just passes AA, 4.54:1 (from memory).
	if c := contrast(t, "#000000", "#FFFFFF"); math.Abs(c-21) > 1e-9 {
		t.Fatalf("black on white: %v", c)
	}
	if c := contrast(t, "#767676", "#FFFFFF"); math.Abs(c-4.54) > 0.01 {
		t.Fatalf("grey on white: %v", c)
	}
	b, err := os.ReadFile("src/theme/tokens.json")
	if err != nil {
		t.Fatal(err)
	}
	var themes map[string]map[string]string
	if err := json.Unmarshal(b, &themes); err != nil {
		t.Fatal(err)
	}
	if len(themes) != 2 || len(themes["light"]) != len(themes["dark"]) {
		t.Fatalf("a token is missing from one theme: %d light, %d dark", len(themes["light"]), len(themes["dark"]))
	}
	// Which colour stands on which: 4.5:1 for text (1.4.3), 3:1 for the parts of
	// a picture or field one must see (1.4.11).
	text := map[string][]string{
		"ink":   {"paper", "sheet", "rail", "peg", "leather-soft", "brick-soft", "brass-soft"},
		"ink-2": {"paper", "sheet", "rail", "peg", "leather-soft"}, "ink-3": {"paper", "sheet"},
		"leather-2": {"paper", "sheet", "rail", "leather-soft"}, "on-leather": {"leather"},
		"brass-text": {"paper", "sheet", "brass-soft"}, "on-brass": {"brass-text"},
		"moss": {"paper", "sheet"}, "brick": {"paper", "sheet", "brick-soft", "leather-soft"},
		"tide": {"paper", "sheet", "rail", "tide-soft"}, "on-belt": {"belt"}, "belt-link": {"belt"},
	}
	parts := map[string][]string{"want": {"paper", "sheet", "leather-soft"},
		"moss": {"paper", "leather-soft", "moss-fill"}, "brass": {"paper"}, "brick": {"brick-soft"},
		"leather": {"paper", "sheet"}, "line-field": {"paper", "sheet"}, "belt-done": {"belt"}, "belt-stuck": {"belt"}}
	for name, theme := range themes {
		for need, pairs := range map[float64]map[string][]string{4.5: text, 3: parts} {
			for on, grounds := range pairs {
				for _, ground := range grounds {
					if theme[on] == "" || theme[ground] == "" {
						t.Errorf("%s: no token %s or %s", name, on, ground)
					} else if c := contrast(t, theme[on], theme[ground]); c < need {
						t.Errorf("%s: %s on %s is %.2f:1, at least %.1f:1", name, on, ground, c, need)
					}
				}
			}
		}
	}
}
