export default function Page() { return <p>shop</p> }
