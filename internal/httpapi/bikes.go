package httpapi

import (
	"bytes"
	"context"
	"fmt"
	"io"

	"github.com/google/uuid"
	"rsc.io/qr"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/bikes"
)

func (a *api) ListRideDrafts(ctx context.Context, req apigen.ListRideDraftsRequestObject) (apigen.ListRideDraftsResponseObject, error) {
	drafts, err := a.Shop.RideDrafts(ctx, req.Tag)
	return apigen.ListRideDrafts200JSONResponse(drafts), err
}

func (a *api) AnswerRides(ctx context.Context, req apigen.AnswerRidesRequestObject) (apigen.AnswerRidesResponseObject, error) {
	file, err := a.Shop.AnswerRides(ctx, actor(ctx), req.Draft, req.Body.Answers)
	return apigen.AnswerRides201JSONResponse(file), err
}

func (a *api) DropRides(ctx context.Context, req apigen.DropRidesRequestObject) (apigen.DropRidesResponseObject, error) {
	return apigen.DropRides204Response{}, a.Shop.DropRides(ctx, actor(ctx), req.Draft)
}

func (a *api) ImportRides(ctx context.Context, req apigen.ImportRidesRequestObject) (apigen.ImportRidesResponseObject, error) {
	data, err := io.ReadAll(req.Body)
	if err != nil {
		return nil, err
	}
	file, err := a.Shop.ImportRides(ctx, actor(ctx), req.Tag, req.Params.Name, data)
	return apigen.ImportRides201JSONResponse(file), err
}

func (a *api) SizeChain(ctx context.Context, req apigen.SizeChainRequestObject) (apigen.SizeChainResponseObject, error) {
	answer, err := a.Shop.SizeChain(ctx, *req.Body)
	return apigen.SizeChain200JSONResponse(answer), err
}

func (a *api) PlanReplacement(ctx context.Context, req apigen.PlanReplacementRequestObject) (apigen.PlanReplacementResponseObject, error) {
	plan, err := a.Shop.PlanReplacement(ctx, req.Tag)
	return apigen.PlanReplacement200JSONResponse(plan), err
}

func (a *api) ReplaceChain(ctx context.Context, req apigen.ReplaceChainRequestObject) (apigen.ReplaceChainResponseObject, error) {
	entry, err := a.Shop.ReplaceChain(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.ReplaceChain201JSONResponse(entry), err
}

func (a *api) OpenChain(ctx context.Context, req apigen.OpenChainRequestObject) (apigen.OpenChainResponseObject, error) {
	entry, err := a.Shop.OpenChain(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.OpenChain201JSONResponse(entry), err
}

const pageOfBikes = 60

func (a *api) ListBikes(ctx context.Context, req apigen.ListBikesRequestObject) (apigen.ListBikesResponseObject, error) {
	p := req.Params
	page, err := a.Shop.FindBikes(ctx, valueOr(p.Q, ""), valueOr(p.Archived, false), valueOr(p.After, ""), valueOr(p.Limit, pageOfBikes))
	return apigen.ListBikes200JSONResponse(page), err
}

func (a *api) AddBike(ctx context.Context, req apigen.AddBikeRequestObject) (apigen.AddBikeResponseObject, error) {
	bike, err := a.Shop.AddBike(ctx, actor(ctx), bikes.NewBike{CustomerID: valueOr(req.Body.CustomerId, uuid.Nil), Customer: req.Body.Customer, Facts: req.Body.Facts})
	return apigen.AddBike201JSONResponse(bike), err
}

func (a *api) GetBike(ctx context.Context, req apigen.GetBikeRequestObject) (apigen.GetBikeResponseObject, error) {
	bike, err := a.Shop.Bike(ctx, req.Tag)
	return apigen.GetBike200JSONResponse(bike), err
}

func (a *api) ChangeBike(ctx context.Context, req apigen.ChangeBikeRequestObject) (apigen.ChangeBikeResponseObject, error) {
	n := bikes.NewBike{CustomerID: valueOr(req.Body.CustomerId, uuid.Nil), Customer: req.Body.Customer, Facts: req.Body.Facts}
	bike, err := a.Shop.ChangeBike(ctx, actor(ctx), req.Tag, req.Body.Version, n)
	return apigen.ChangeBike200JSONResponse(bike), err
}

func (a *api) ArchiveBike(ctx context.Context, req apigen.ArchiveBikeRequestObject) (apigen.ArchiveBikeResponseObject, error) {
	bike, err := a.Shop.ArchiveBike(ctx, actor(ctx), req.Tag, req.Body.Version, req.Body.Archived)
	return apigen.ArchiveBike200JSONResponse(bike), err
}

// GetTagCode draws the tag's text as a code: a scanner in keyboard mode then types the tag.
func (a *api) GetTagCode(ctx context.Context, req apigen.GetTagCodeRequestObject) (apigen.GetTagCodeResponseObject, error) {
	bike, err := a.Shop.Bike(ctx, req.Tag)
	if err != nil {
		return nil, err
	}
	svg, err := codeOf(bike.Tag)
	return apigen.GetTagCode200ImagesvgXmlResponse{Body: bytes.NewBufferString(svg), ContentLength: int64(len(svg))}, err
}

// codeOf draws a text as a code that scanners and telephones read, SVG.
func codeOf(text string) (string, error) {
	code, err := qr.Encode(text, qr.M)
	if err != nil {
		return "", fmt.Errorf("draw code: %w", err)
	}
	const quiet = 4 // modules of white that scanners need around a code
	var path bytes.Buffer
	for y := range code.Size {
		for x := range code.Size {
			if code.Black(x, y) {
				fmt.Fprintf(&path, "M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	side := code.Size + 2*quiet
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" shape-rendering="crispEdges"><path fill="#fff" d="M0 0h%dv%dH0z"/><path d="%s"/></svg>`,
		side, side, side, side, path.String()), nil
}

func (a *api) GetPhoto(ctx context.Context, req apigen.GetPhotoRequestObject) (apigen.GetPhotoResponseObject, error) {
	photo, err := a.Shop.Photo(ctx, req.Tag)
	return apigen.GetPhoto200ImagejpegResponse{Body: bytes.NewReader(photo), ContentLength: int64(len(photo))}, err
}

func (a *api) SetPhoto(ctx context.Context, req apigen.SetPhotoRequestObject) (apigen.SetPhotoResponseObject, error) {
	picture, err := io.ReadAll(req.Body)
	if err != nil {
		return nil, err
	}
	bike, err := a.Shop.SetPhoto(ctx, actor(ctx), req.Tag, picture)
	return apigen.SetPhoto200JSONResponse(bike), err
}

func (a *api) RemovePhoto(ctx context.Context, req apigen.RemovePhotoRequestObject) (apigen.RemovePhotoResponseObject, error) {
	bike, err := a.Shop.RemovePhoto(ctx, actor(ctx), req.Tag)
	return apigen.RemovePhoto200JSONResponse(bike), err
}

func (a *api) GetWearTrack(ctx context.Context, req apigen.GetWearTrackRequestObject) (apigen.GetWearTrackResponseObject, error) {
	track, err := a.Shop.WearTrack(ctx, req.Tag)
	return apigen.GetWearTrack200JSONResponse(track), err
}

func (a *api) GetCosts(ctx context.Context, req apigen.GetCostsRequestObject) (apigen.GetCostsResponseObject, error) {
	costs, err := a.Shop.Costs(ctx, req.Tag)
	return apigen.GetCosts200JSONResponse(costs), err
}

func (a *api) NoteOdometer(ctx context.Context, req apigen.NoteOdometerRequestObject) (apigen.NoteOdometerResponseObject, error) {
	entry, err := a.Shop.NoteOdometer(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.NoteOdometer201JSONResponse(entry), err
}

func (a *api) FitChain(ctx context.Context, req apigen.FitChainRequestObject) (apigen.FitChainResponseObject, error) {
	entry, err := a.Shop.FitChain(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.FitChain201JSONResponse(entry), err
}

func (a *api) StrikeOut(ctx context.Context, req apigen.StrikeOutRequestObject) (apigen.StrikeOutResponseObject, error) {
	entry, err := a.Shop.StrikeOut(ctx, actor(ctx), req.Entry, req.Body.Reason)
	return apigen.StrikeOut201JSONResponse(entry), err
}

func (a *api) ListCustomers(ctx context.Context, req apigen.ListCustomersRequestObject) (apigen.ListCustomersResponseObject, error) {
	p := req.Params
	page, err := a.Shop.FindCustomers(ctx, valueOr(p.Q, ""), valueOr(p.Archived, false), p.After, valueOr(p.Limit, pageOfBikes))
	return apigen.ListCustomers200JSONResponse(page), err
}

func (a *api) AddCustomer(ctx context.Context, req apigen.AddCustomerRequestObject) (apigen.AddCustomerResponseObject, error) {
	c, err := a.Shop.AddCustomer(ctx, actor(ctx), *req.Body)
	return apigen.AddCustomer201JSONResponse(c), err
}

func (a *api) GetCustomer(ctx context.Context, req apigen.GetCustomerRequestObject) (apigen.GetCustomerResponseObject, error) {
	c, err := a.Shop.Customer(ctx, req.Customer)
	return apigen.GetCustomer200JSONResponse(c), err
}

func (a *api) ChangeCustomer(ctx context.Context, req apigen.ChangeCustomerRequestObject) (apigen.ChangeCustomerResponseObject, error) {
	c, err := a.Shop.ChangeCustomer(ctx, actor(ctx), req.Customer, req.Body.Version, req.Body.Facts)
	return apigen.ChangeCustomer200JSONResponse(c), err
}

func (a *api) GetCustomerHistory(ctx context.Context, req apigen.GetCustomerHistoryRequestObject) (apigen.GetCustomerHistoryResponseObject, error) {
	h, err := a.Shop.CustomerHistory(ctx, req.Customer)
	return apigen.GetCustomerHistory200JSONResponse(h), err
}

func (a *api) MergeCustomers(ctx context.Context, req apigen.MergeCustomersRequestObject) (apigen.MergeCustomersResponseObject, error) {
	c, err := a.Shop.MergeCustomers(ctx, actor(ctx), req.Customer, *req.Body)
	return apigen.MergeCustomers200JSONResponse(c), err
}

func (a *api) ArchiveCustomer(ctx context.Context, req apigen.ArchiveCustomerRequestObject) (apigen.ArchiveCustomerResponseObject, error) {
	c, err := a.Shop.ArchiveCustomer(ctx, actor(ctx), req.Customer, req.Body.Version, req.Body.Archived)
	return apigen.ArchiveCustomer200JSONResponse(c), err
}
