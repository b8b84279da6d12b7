package classroutes

import (
	"context"
	"io"
	"net/http"

	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListLeavers implements the route of that name.
func (s *leaveRoutes) ListLeavers(ctx context.Context, r api.ListLeaversRequestObject) (api.ListLeaversResponseObject, error) {
	all, err := s.leaving.Leavers(ctx, r.ClassId)
	out := api.ListLeavers200JSONResponse{}
	for _, l := range all {
		var request *api.SatchelRequest
		if q := l.Request; q != nil {
			request = &api.SatchelRequest{Row: q.Row, By: q.By, Class: q.Class, At: q.At.UTC()}
		}
		out = append(out, api.Leaver{
			Request: request,
			Row:     l.Student.ID, Student: l.Student.SortName(), LeftAt: l.Student.LeftAt.UTC(), Copies: l.Copies,
			Begun: l.Begun, Own: l.Own, Newest: desk.Moment(l.Newest), Owned: l.Owned, Binned: l.Binned, BinUntil: desk.Moment(l.BinUntil),
			Decision: api.LeaverDecision(l.Decision), DecidedAt: desk.Moment(l.DecidedA), Account: l.Student.Account != "",
		})
	}
	return out, err
}

// DecideLeaver implements the route of that name.
func (s *leaveRoutes) DecideLeaver(ctx context.Context, r api.DecideLeaverRequestObject) (api.DecideLeaverResponseObject, error) {
	return api.DecideLeaver204Response{}, s.leaving.Decide(ctx, desk.Account(ctx), r.ClassId, r.RowId, string(r.Body.Decision), r.Body.Own)
}

// DecideFormer implements the route of that name.
func (s *leaveRoutes) DecideFormer(ctx context.Context, r api.DecideFormerRequestObject) (api.DecideFormerResponseObject, error) {
	asked, err := s.leaving.Former(ctx, desk.Account(ctx), r.ClassId, r.RowId, r.Body.Along)
	return api.DecideFormer200JSONResponse{Asked: asked}, err
}

// AnswerRequest implements the route of that name.
func (s *leaveRoutes) AnswerRequest(ctx context.Context, r api.AnswerRequestRequestObject) (api.AnswerRequestResponseObject, error) {
	return api.AnswerRequest204Response{}, s.leaving.AnswerRequest(ctx, desk.Account(ctx), r.ClassId, r.RowId, r.Body.Asks, r.Body.Yes)
}

// An archived answers ArchiveLeaver: what goes wrong once it is under way cuts the
// archive off, which anyone who opens it sees.
type archived struct {
	name  string
	write func(io.Writer) error
}

// VisitArchiveLeaverResponse implements api.ArchiveLeaverResponseObject.
func (a archived) VisitArchiveLeaverResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", desk.Disposition(a.name))
	return a.write(w)
}

// ArchiveLeaver implements the route of that name.
func (s *leaveRoutes) ArchiveLeaver(ctx context.Context, r api.ArchiveLeaverRequestObject) (api.ArchiveLeaverResponseObject, error) {
	all, err := s.leaving.Leavers(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	for _, l := range all {
		if l.Student.ID == r.RowId {
			return archived{l.Student.SortName() + ".zip", func(w io.Writer) error { return s.leaving.Archive(ctx, r.ClassId, r.RowId, w) }}, nil
		}
	}
	return nil, seam.ErrNotFound
}

// PreviewHanding implements the route of that name.
func (s *leaveRoutes) PreviewHanding(ctx context.Context, r api.PreviewHandingRequestObject) (api.PreviewHandingResponseObject, error) {
	look, err := s.leaving.PreviewHandOver(ctx, r.ClassId, r.Body.Rows, desk.Deref(r.Body.Handout))
	out := api.PreviewHanding200JSONResponse{Seen: look.Seen, Without: []api.HandingWithout{}}
	given := map[string]bool{}
	for _, l := range look.Lines {
		if l.Why != nil {
			out.Without = append(out.Without, api.HandingWithout{Student: l.Student, Name: l.Name, Why: desk.ReasonOf(*l.Why)})
			continue
		}
		given[l.Row] = true
		out.Things += l.Things
		out.Own += l.Own
	}
	out.Students = len(given)
	return out, err
}

// HandToStudents implements the route of that name.
func (s *leaveRoutes) HandToStudents(ctx context.Context, r api.HandToStudentsRequestObject) (api.HandToStudentsResponseObject, error) {
	b := r.Body
	run, err := s.leaving.HandOver(ctx, desk.Account(ctx), r.ClassId, b.Rows, desk.Deref(b.Handout), b.Staff, b.Seen)
	return api.HandToStudents202JSONResponse{Run: run.ID}, err
}
