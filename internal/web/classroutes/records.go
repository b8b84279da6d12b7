package classroutes

import (
	"context"
	"fmt"
	"strings"

	"github.com/skip2/go-qrcode"

	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetLog implements the route of that name.
func (s *registerRoutes) GetLog(ctx context.Context, r api.GetLogRequestObject) (api.GetLogResponseObject, error) {
	out, err := s.log(ctx, r.ClassId, r.Params.Find, r.Params.Before)
	return api.GetLog200JSONResponse(out), err
}

// GetSchoolLog implements the route of that name.
func (s *registerRoutes) GetSchoolLog(ctx context.Context, r api.GetSchoolLogRequestObject) (api.GetSchoolLogResponseObject, error) {
	out, err := s.log(ctx, "", r.Params.Find, r.Params.Before)
	return api.GetSchoolLog200JSONResponse(out), err
}

// log is a page of a class's log, or of the school's where class is empty.
func (s *registerRoutes) log(ctx context.Context, class string, find *string, before *int64) (api.Log, error) {
	lines, more, err := s.registers.LogPage(ctx, class, desk.Deref(find), desk.Deref(before))
	out := api.Log{Lines: []api.LogLine{}, More: more}
	for _, l := range lines {
		out.Lines = append(out.Lines, api.LogLine{N: l.N, At: l.At.UTC(), Who: l.Who, Act: l.Act, Text: l.Text,
			Handout: desk.OrNone(l.Handout), Row: desk.OrNone(l.Row)})
	}
	return out, err
}

// GetLedger implements the route of that name.
func (s *registerRoutes) GetLedger(ctx context.Context, r api.GetLedgerRequestObject) (api.GetLedgerResponseObject, error) {
	from := 0
	if r.Params.From != nil {
		from = *r.Params.From
	}
	lines, more, err := s.registers.LedgerPage(ctx, r.ClassId, desk.Deref(r.Params.Find), from)
	out := api.GetLedger200JSONResponse{Lines: []api.LedgerLine{}, More: more}
	for _, l := range lines {
		v := api.LedgerLine{Id: l.ID, Name: l.Name, Purpose: string(l.Key.What.Purpose), Student: l.Student,
			Thing: l.Thing,
			Link:  l.Link, Run: l.RunID, MadeAt: l.MadeAt, SharedAt: desk.Moment(l.SharedAt), EndedAt: desk.Moment(l.EndedAt),
			Grants: []api.LedgerGrant{}}
		if l.Here {
			v.Row = &l.Key.Whom.Row
		}
		for _, g := range l.Grants {
			v.Grants = append(v.Grants, api.LedgerGrant{Name: g.Name, Level: g.Level.String(), At: g.At.UTC()})
		}
		out.Lines = append(out.Lines, v)
	}
	return out, err
}

// ExportLog implements the route of that name.
func (s *registerRoutes) ExportLog(ctx context.Context, r api.ExportLogRequestObject) (api.ExportLogResponseObject, error) {
	return s.Export(ctx, r.Format, "log", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportLog(ctx, c.ID, desk.Deref(r.Params.Find))
	})
}

// ExportSchoolLog implements the route of that name.
func (s *registerRoutes) ExportSchoolLog(ctx context.Context, r api.ExportSchoolLogRequestObject) (api.ExportSchoolLogResponseObject,
	error) {
	return desk.AsFile(ctx, r.Format, s.registers.School().Name, "log", func() ([][]string, error) {
		return s.registers.ExportLog(ctx, "", desk.Deref(r.Params.Find))
	})
}

// ExportLedger implements the route of that name.
func (s *registerRoutes) ExportLedger(ctx context.Context, r api.ExportLedgerRequestObject) (api.ExportLedgerResponseObject, error) {
	return s.Export(ctx, r.Format, "ledger", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportLedger(ctx, c.ID, desk.Deref(r.Params.Find), s.Site(ctx))
	})
}

// ExportRegister implements the route of that name.
func (s *registerRoutes) ExportRegister(ctx context.Context, r api.ExportRegisterRequestObject) (api.ExportRegisterResponseObject, error) {
	return s.Export(ctx, r.Format, "Register", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportRegister(ctx, c.ID, r.Body.Rows, s.Site(ctx))
	})
}

// ExportLinks implements the route of that name.
func (s *registerRoutes) ExportLinks(ctx context.Context, r api.ExportLinksRequestObject) (api.ExportLinksResponseObject, error) {
	return s.Export(ctx, r.Format, "links", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportLinks(ctx, c.ID, desk.Deref(r.Params.Handout), s.Site(ctx))
	})
}

// GetLinks implements the route of that name.
func (s *registerRoutes) GetLinks(ctx context.Context, r api.GetLinksRequestObject) (api.GetLinksResponseObject, error) {
	handout := desk.Deref(r.Params.Handout)
	links, err := s.registers.Links(ctx, r.ClassId, handout)
	if err != nil {
		return nil, err
	}
	cues, err := s.rooms.Cues(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	base := s.Site(ctx)
	out := api.GetLinks200JSONResponse{Door: base + "/door/" + r.ClassId, Links: []api.ThingLink{}}
	if handout != "" {
		out.Door += "/" + handout
	}
	for _, l := range links {
		v := api.ThingLink{Row: l.Row, Student: l.Student, Address: l.Address, Name: l.Name, Place: l.Place,
			Link: base + "/go/" + l.Link, Cue: desk.CueView(cues[l.Row])}
		if r.Params.Codes != nil && *r.Params.Codes && l.Row != "" {
			code, size, err := codeOf(v.Link)
			if err != nil {
				return nil, err
			}
			v.Code, v.Size = &code, &size
		}
		out.Links = append(out.Links, v)
	}
	return out, nil
}

// codeOf draws a code to scan (ISO/IEC 18004) as the outline of its dark squares,
// each of 1, with the quiet zone around it; size is that of the whole.
func codeOf(text string) (outline string, size int, err error) {
	q, err := qrcode.New(text, qrcode.Medium)
	if err != nil {
		return "", 0, err
	}
	var b strings.Builder
	rows := q.Bitmap()
	for y, row := range rows {
		for x := 0; x < len(row); x++ {
			from := x
			for x < len(row) && row[x] {
				x++
			}
			if x > from {
				fmt.Fprintf(&b, "M%d %dh%dv1h-%dz", from, y, x-from, x-from)
			}
		}
	}
	return b.String(), len(rows), nil
}

// FrontDoor implements the route of that name.
func (s *registerRoutes) FrontDoor(ctx context.Context, r api.FrontDoorRequestObject) (api.FrontDoorResponseObject, error) {
	thing, staff, err := s.registers.FrontDoor(ctx, desk.Account(ctx), r.ClassId, desk.Deref(r.Params.Handout))
	if err != nil {
		return nil, err
	}
	return api.FrontDoor200JSONResponse(api.Door{Thing: desk.OrNone(thing), Staff: staff}), nil
}
