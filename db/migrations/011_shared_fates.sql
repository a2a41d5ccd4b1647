-- What fails together and which devices are pairs came into the document; those kept before hold none of either.
update revision set document = '{"risks": [], "pairs": []}'::jsonb || document
where not (document ? 'risks' and document ? 'pairs');
