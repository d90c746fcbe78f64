"""A folder of texts, each with its facts as front matter: what the formats of such folders share."""
