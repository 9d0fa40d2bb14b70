package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
)

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

func (a *api) ListStock(ctx context.Context, req apigen.ListStockRequestObject) (apigen.ListStockResponseObject, error) {
	items, err := a.Shop.ListStock(ctx, valueOr(req.Params.Retired, false))
	return apigen.ListStock200JSONResponse(items), err
}

func (a *api) AddStock(ctx context.Context, req apigen.AddStockRequestObject) (apigen.AddStockResponseObject, error) {
	item, err := a.Shop.AddStock(ctx, actor(ctx), *req.Body)
	return apigen.AddStock201JSONResponse(item), err
}

func (a *api) ChangeStock(ctx context.Context, req apigen.ChangeStockRequestObject) (apigen.ChangeStockResponseObject, error) {
	item, err := a.Shop.ChangeStock(ctx, actor(ctx), req.Item, req.Body.Version, req.Body.Facts)
	return apigen.ChangeStock200JSONResponse(item), err
}

func (a *api) RetireStock(ctx context.Context, req apigen.RetireStockRequestObject) (apigen.RetireStockResponseObject, error) {
	item, err := a.Shop.RetireStock(ctx, actor(ctx), req.Item, req.Body.Version, req.Body.Retired)
	return apigen.RetireStock200JSONResponse(item), err
}

func (a *api) ListStockNeeds(ctx context.Context, _ apigen.ListStockNeedsRequestObject) (apigen.ListStockNeedsResponseObject, error) {
	needs, err := a.Shop.StockNeeds(ctx)
	return apigen.ListStockNeeds200JSONResponse(needs), err
}

func (a *api) PlanCleaning(ctx context.Context, req apigen.PlanCleaningRequestObject) (apigen.PlanCleaningResponseObject, error) {
	plan, err := a.Shop.PlanCleaning(ctx, req.Tag, *req.Body)
	return apigen.PlanCleaning200JSONResponse(plan), err
}
