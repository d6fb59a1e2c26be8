package port.coldstore;

/** Goods of one owner that wait in a cold room. */
final class Consignment {
    private final String owner;
    private final String goods;
    private final int pallets;
    private final double celsius;

    Consignment(String owner, String goods, int pallets, double celsius) {
        this.owner = owner;
        this.goods = goods;
        this.pallets = pallets;
        this.celsius = celsius;
    }

    String getOwner() {
        return owner;
    }

    String getGoods() {
        return goods;
    }

    int getPallets() {
        return pallets;
    }

    double getCelsius() {
        return celsius;
    }

    boolean isFrozen() {
        return celsius <= -18;
    }
}
