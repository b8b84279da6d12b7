package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/usecase/pack"
)

// handout gives a template, then lets days pass on which students write.
func (p *player) handout(ctx context.Context, class, owner, name, text string, given, due int, begun float64, message string) error {
	p.at(given, 8, 15)
	t, err := p.Cases.Handouts.AddTemplate(ctx, owner, name+".md", "text/markdown; charset=utf-8", strings.NewReader(text))
	if err != nil {
		return err
	}
	cl, err := p.Cases.Classes.Class(ctx, class)
	if err != nil {
		return err
	}
	h, err := p.Cases.Handouts.NewHandout(ctx, owner, class, t.ID)
	if err != nil {
		return err
	}
	at := p.now.In(p.Charter.School().Zone).AddDate(0, 0, due).Format("2006-01-02") + "T17:00"
	change := handout.Change{Due: &at, Message: &message}
	if len(cl.Plan.Pockets) > 0 {
		change.Pocket = &cl.Plan.Pockets[0].ID
	}
	if name == "Tide-table worksheet" {
		change.Out = map[string]string{cl.Students[11].ID: "sits-out"}
	}
	if h, err = p.Cases.Handouts.ChangeHandout(ctx, owner, class, h.ID, change, handout.Change{}); err != nil {
		return err
	}
	run, err := p.Cases.Packing.Pack(ctx, owner, class, h.ID, pack.Part{})
	if err != nil {
		return err
	}
	if err := p.wait(ctx, run.ID); err != nil {
		return err
	}
	reg, err := p.Cases.Registers.Register(ctx, class)
	if err != nil {
		return err
	}
	copies := reg.Columns[len(reg.Columns)-1].Cells
	for i, st := range cl.Students {
		if copies[i].Entry == nil || !copies[i].Shared {
			continue
		}
		mood := p.rand.Float64()
		if mood > begun+0.15 {
			continue // hasn't looked yet
		}
		p.at(given-1, 9, 30+i%25)
		if _, err := p.Cases.Things.See(ctx, st.Account, copies[i].Entry.Thing); err != nil {
			return err
		}
		if mood <= begun {
			if err := p.write(ctx, st.Account, copies[i].Entry.Thing, text, given, due); err != nil {
				return err
			}
		}
	}
	return nil
}

// write lets one student write on several days between the giving and now.
func (p *player) write(ctx context.Context, account, thing, text string, given, due int) error {
	last := max(0, -due)
	base, sittings := 1, 1+p.rand.IntN(4)
	ago, before := given-1, p.day.Now()
	for range sittings {
		ago -= p.rand.IntN(3)
		if ago < last {
			break
		}
		p.at(ago, 9+p.rand.IntN(8), p.rand.IntN(60))
		if now := p.day.Now(); !now.After(before) { // two sittings on one Saturday
			p.day.Set(before.Add(time.Minute))
		}
		before = p.day.Now()
		for range 1 + p.rand.IntN(3) {
			text += sentences[p.rand.IntN(len(sentences))] + " "
		}
		text = strings.TrimRight(text, " ") + "\n\n"
		v, err := p.Cases.Things.Write(ctx, account, fmt.Sprintf("demo-%d", base), thing, base, strings.NewReader(text))
		if err != nil {
			return err
		}
		base = v.Number
	}
	return nil
}
